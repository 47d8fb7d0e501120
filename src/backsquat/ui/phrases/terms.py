"""Words of the job that need a line where they stand: each opens it on a click, and stands in docs/GLOSSARY.md."""

TERMS = {
    "school": "A way of going on from week to week: which loads and reps are planned, and what the next number is.",
    "slot": "One movement of one training day of a block, for everybody; each has a school.",
    "stack": "Movements done one after the other without rest between them; the rest comes after the last.",
    "rung": "A step of a ladder: a harder or easier variant of the same pattern. Everybody works on their own.",
    "mend": "What one click would change so that a remark about the week is no longer true.",
    "place": "Where somebody starts on a ladder, by their screens or by somebody's word.",
    "planning max": "The maximum loads are planned from: today's estimate, a little less for newcomers.",
    "trust": "How much the sets behind an estimate say: heavy, near the end, lately. Weak is a guess.",
}
