"""Words of the job that need a line where they stand: each opens it on a click, and stands in docs/GLOSSARY.md."""

TERMS = {
    "progression": "A way of going on from week to week: which loads and reps are planned, and what the next number is.",
    "exercise": "One movement of one training day of a block, for everybody; each has a progression.",
    "superset": "Movements done one after the other without rest between them; the rest comes after the last.",
    "level": "A step of a ladder: a harder or easier variant of the same pattern. Everybody works on their own.",
    "fix": "What one click would change so that a remark about the week is no longer true.",
    "place": "Where somebody starts on a ladder, by their screens or by somebody's word.",
    "planning max": "The maximum loads are planned from: today's e1RM, a little less for newcomers.",
    "trust": "How much the sets behind an e1RM say: heavy, near the end, lately. Weak is a guess.",
}
