// A page for paper: its one button opens the browser's print.
"use strict";
document.addEventListener("click", (event) => { if (event.target.closest("[data-print]")) window.print(); });
