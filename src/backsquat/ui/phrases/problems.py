"""Wording of problems beside fields and of refusals."""

from backsquat.core.errors import Problem, Refused
from backsquat.ui.phrases.days import long_day_words

PROBLEMS: dict[str, str] = {
    "season_taken": "A season from {first} to {last} is there already. Begin after it, or end before.",
    "library_kind": "This is no library of movements: it must be the JSON as it was handed out.",
    "library_entry": "{code}: {what}. Nothing was added.",
    "archive_kind": "This is no archive of a squad: it must be the zip as it was handed out.",
    "archive_unsound": "{what}",
    "archive_coach": "Nobody in this archive is a head coach with this name to sign in with.",
    "another_week": "A session moves inside its week. Plan it in another week's block instead.",
    "before_first": "The last day is before the first.",
    "phase_taken": "A phase from {first} to {last} is there already. Drop that one, or choose other days.",
    "not_in_season": "The season runs from {first} to {last}.",
    "height_of": "A height is {low} to {high} cm.",
    "no_address": "This is no e-mail address; leave it empty where there is none.",
    "file_kind": "This is no CSV, XLSX or text. From another program: save it as CSV or XLSX first.",
    "file_empty": "Nothing is in it.",
    "file_large": "This workbook is too large once unpacked. Copy the rows into a new one, or paste them.",
    "speed_range": "Speeds are m/s, more than none and at most {most}.",
    "as_said": "{words}",
    "first_code": "This is not the code that was printed where the application was started.",
    "pass_over": "This link or code is good no more. Ask the coach for another one.",
    "parameter_range": "{name}: from {low:g} to {high:g}.",
    "another_day": "Choose another day than its own.",
    "not_in_session": "This is not in the session any more. Look it over as it is now.",
    "stack_full": "A stack holds at most {most}: more than that is a circuit.",
    "tempo": "Four numbers: down-bottom-up-top, for example 3-0-1-0.",
    "reach_range": "A reach is above 0 and at most {most:g} cm.",
    "height_range": "A height is above 0 and at most {most:g} cm.",
    "help_range": "A counterweight is from 0 to {most:g} kg.",
    "window_range": "Each window as low/high, from 1 to {most} reps.",
    "window_order": "The top of the window must be above its bottom.",
    "too_many_slots": "A block holds at most {most} slots.",
    "last_slot": "A block needs one slot at least.",
    "assignment_past": "From today on: what was done before stays where it was done.",
    "assignment_order": "The last day cannot be before the first, nor more than two years after it.",
    "room_empty": "Describe this room's bars and plates first.",
    "nobody_chosen": "Choose whom it is for, or everybody.",
    "sign_in_wrong": "Name and password do not belong together. Check both and try again.",
    "sign_in_slow": "Too many tries. Wait a quarter of an hour, use a browser you were signed in with before, or ask for "
    "a link for a new password.",
    "name_to_confirm": "Type the name as it stands here: {name}.",
    "changed_meanwhile": "Meanwhile {who} changed {what}. Keep yours in their stead?",
    "meanwhile": "Somebody has changed this since you opened it, and it is not kept yet: look it over as it is now beside "
    "yours. Sending it once more keeps yours.",
    "password_common": "This password is easy to guess. A few words that do not belong together are better.",
    "password_wrong": "This is not your password.",
    "code_wrong": "This code is not right, or was used already. Wait for the next one and try again.",
    "day_past": "No session of it is left to move: what is past, or begun, keeps its day.",
    "slot_lines": "Some slots need another look, see beside them.",
    "tempo_format": "Four numbers: down-bottom-up-top, for example 3-0-1-0.",
    "too_many_edits": "Between one and {most} loads at a time.",
    "doubt_mass": "{load} × {reps} would be {masses} × body mass. Is that right?",
    "doubt_best": "{load} × {reps} is {percent} % over the best on record ({best} kg). Is that right?",
    "logged_meanwhile": "{name}'s set {number} was logged {ago} ago by {by}. Another set?",
    "not_in_stock": "{load} {unit} is no load of {room}. Was it really that?",
    "over_limit": "A limit allows at most {most:g} kg on this day.",
    "no_such_movement": "No movement of this name; choose one of the list.",
    "on_no_ladder": "This movement is on no ladder, so it has no rung to earn.",
    "nobody_here": "There is nobody in the squad yet.",
    "slot_what": "Choose a movement or a ladder.",
    "bells": "Masses with spaces between, 12*1 for a single one: 4 6 8 10 12.5",
    "stack_range": "Lowest, step and heaviest in that order: a step above nought, the heaviest not under the lowest.",
    "band_range": "Pull when short and when long, the long one the greater.",
    "missing": "Please fill this in.",
    "not_a_number": "Write a number, for example 82.5.",
    "not_whole": "Write a whole number.",
    "not_a_date": "Write the date as year-month-day, for example 2026-11-23.",
    "not_a_choice": "Choose one of: {choices}.",
    "out_of_range": "Choose a value from {low} to {high}.",
    "unknown_rule": "There is no rule called {name}.",
    "load_range": "The load must be above 0 and at most {most:g} kg.",
    "reps_range": "Reps go from 1 to {most}.",
    "depth_over_reps": "Of {reps} reps, between 0 and {reps} can have been to depth.",
    "reserve_range": "Reps left go from 0 to {most}.",
    "screen_range": "Write a value from 0 to {most:g} {unit}.",
    "entry": "{what}",
    "hold_range": "Seconds go from 1 to {most}.",
    "in_future": "This date is in the future; today is {today}.",
    "before_birth": "This date is before the athlete was born.",
    "age_range": "The age must be between {low} and {high} years.",
    "pain_range": "Pain goes from 0 to {most}.",
    "pain_needs_region": "Say where it hurts, so that what loads it can be locked.",
    "pain_needs_level": "Give the pain a number from 1 to 10.",
    "mass_range": "The body mass must be between {low} and {high} kg.",
    "movement_taken": "There is already a movement called {name}.",
    "line_by": "Say which physio or doctor set this line.",
    "station_wrong": "Say what is wrong, for example: pins missing.",
    "set_up_field": "Choose what to remember.",
    "box_height": "A box is from 50 to 900 mm high.",
    "until_before": "The end cannot be before the start, {first}.",
    "back_before": "The return cannot be before the absence began, {first}.",
    "limit_needs": "Say how far: {what}.",
    "unknown_what": "Choose what the limit is on.",
    "name_taken": "There is already an athlete called {name} in this squad.",
    "too_long": "Please keep this under {most} characters.",
    "sets_range": "Sets go from 1 to {most}.",
    "wave_reps_range": "Each week needs from 1 to {most} reps.",
    "wave_reserve_range": "Each week asks for 0 to {most} reps left.",
    "wave_format": "Write each week as reps/left, separated by spaces: 8/3 6/2 4/2.",
    "rest_range": "Rest goes from {low} to {high} seconds.",
    "not_monday": "A block starts on a Monday.",
    "outside_season": "The block must lie inside the season, {first} to {last}.",
    "weeks_range": "A block has from 1 to {most} weeks.",
    "overlap": "{name} already plans these weeks.",
    "no_days": "Choose a day for at least one lift.",
    "not_loadable": "This bar cannot hold {load}: nearest are {below} and {above}.",
    "under_bar": "The empty {bar} is already {mass}.",
    "reason_missing": "Say why in a few words; it stays with the decision.",
    "no_bars": "The room needs at least one bar.",
    "no_plates": "The room needs at least one pair of plates.",
    "mass_decimals": "Weigh to at most {decimals} decimals in {unit}.",
    "bar_mass_range": "A bar weighs from 1 to 50 kg.",
    "plate_range": "A plate weighs up to 50 kg.",
    "pairs_range": "Pairs go from 1 to {most}.",
    "racks_range": "Racks go from 1 to {most}.",
    "twice": "{mass} is listed twice; add the pairs together.",
    "collar_range": "A pair of collars weighs from 0 to 10 kg.",
    "too_many_loads": "So many different plates make more loads than this application keeps; remove the rarest.",
    "milestone_range": "Give an amount from {low} to {high}.",
    "due_in_past": "The date must be after today, {today}.",
    "due_far": "Choose a date within three years.",
    "clear_before_stop": "The clearance cannot be older than the stop, {stopped}.",
    "password_short": "A password needs at least {least} characters.",
}


REFUSALS: dict[str, tuple[str, str]] = {
    "locked": ("{name} is stopped here", "Pain ({region}) stopped this movement. It opens again when a physio's or "
               "doctor's clearance is recorded on the athlete's page."),
    "gated": ("{name} is not through the gate", "No loaded bar until the gate's checklist is passed, or a coach lets "
              "the athlete through by name and reason. The checklist is on the athlete's page under Gates and ladders."),
    "unearned": ("{name} has not earned this rung", "The movement is a harder rung of its ladder than {name} stands on. "
                 "The own rung stands in; who can do more is placed or moved under Gates and ladders, with the reason."),
    "consent": ("No guardian's consent for {name}", "Nothing is lifted before it is on file, on the athlete's page; rungs "
                "without a weight are open."),
    "away": ("{name} is away", "Away since {since}. Record the return first, under Limits and health: it says how to "
             "ease in."),
    "not_cleared": ("Not cleared yet", "After illness, injury or a pain stop somebody qualified says yes first: note who."),
    "screen_first": ("Screen before any load", "Away for {days} days: the standing squat is screened anew before the return "
                     "is accepted."),
    "still_away": ("Already away", "This absence is still open; record the return first."),
    "barred": ("{name} may not do this now", "A limit set by {by} forbids {movement}. Limits stand on the athlete's page."),
    "not_yet": ("This session has not come yet", "Sets can be logged from {date} on."),
    "not_live": ("This number has changed", "A newer plan was published since this page was opened. Reload it."),
    "no_load": ("There is no load to lift here", "The plan has no number for {name} in this week."),
    "past": ("The past stays as it was", "Weeks that have begun and have logged sets cannot be changed."),
    "pain_reported": (
        "This set reported pain",
        "Whoever logged it may correct it within {minutes} minutes; after that the head coach, or the physio by a "
        "clearance. The stop stays until then.",
    ),
    "somebody_else": (
        "Typed by somebody else",
        "This page was filled in by another person, who was signed in here before. Nothing was stored.",
    ),
    "elsewhere_too": (
        "{name} is in another squad too",
        "Whoever looks after the installation makes the link: .venv/bin/python -m backsquat reset-link --help",
    ),
    "last_coach": ("A squad needs a head coach", "Give somebody else the role first."),
    "undone": ("Nothing to undo", "This change was already undone, or a later one stands on it: undo that first."),
    "not_shipped": ("Nothing to restore", "This one was made by the squad; there is no shipped one behind it."),
    "in_log": ("Logged sets stand behind it", "Family, load, sides, share of the body and depth give old logs their "
               "meaning and stay as they are. Copy the movement and change the copy."),
    "no_rung": ("No rung to move to", "Nothing further on this ladder is open to this athlete in this room."),
    "settled": ("This decision is already taken", "A later answer or a corrected set has overtaken it."),
    "stop_stands": ("A stop is not overridden", "Only a recorded clearance from a physio or doctor opens the "
                    "movement again."),
    "consent_for_phone": ("No guardian's consent for {name}", "A minor signs in on a phone with the guardian's consent on "
                          "file. It is recorded with the facts on the athlete's page."),
    "not_first": ("There is a squad already", "More people are added by its head coach, under People."),
    "another_place": ("This belongs to somebody else", "The set was kept on a device that knew other data. Look who it was "
                      "for, and log it by hand."),
    "replaced": ("This set was already corrected", "Reload the page to see what stands now."),
    "archived_already": ("{name} is put away already", "The squad page lists who was put away."),
    "not_archived": ("{name} is in the squad", "There is nobody to bring back."),
    "name_in_use": ("Somebody else is called {name} now", "Give one of them another name first."),
    "nothing_missed": ("Nothing is waiting there", "Somebody has answered it, or has logged the session since."),
    "nothing_to_publish": ("Nothing to publish", "The floor already has every number of this sheet."),
    "no_room": ("No room yet", "Describe the room first: bars, collars and plates decide which loads exist."),
    "own_room": ("This is the squad's own room", "It can be changed, not taken away."),
    "room_in_use": ("Somebody is to train there", "End what is arranged for this room first, or wait until it is over."),
    "no_easing": ("Nothing left to make easy", "What is left of this week is easy already, logged, or not to be lifted."),
    "nothing_to_restore": ("Nothing to bring back", "What is still to come is already as it was in that version."),
    "no_mend": ("Nothing to mend it with", "The block or the room has changed since. Reload the page."),
    "no_rig": ("Nothing to load it with", "This room has nothing to load {movement} with. Describe it under Room."),
    "enough_sets": ("All sets are logged", "Correct one of them if it went differently."),
    "season_used": ("Matches are in this season", "Take them back first."),
    "pdf_busy": ("Another PDF is being made", "Try again in a moment, or print the page."),
    "no_pdf": (
        "This machine cannot make a PDF",
        "The system's library Pango is missing (README: PDF). Print the page, or keep it as one file.",
    ),
    "no_fit": ("Nothing to fit", "The week has changed since, or fits around its matches already."),
    "session_begun": ("Somebody has lifted in it", "A session that has begun stays where it is."),
    "day_gone": ("That day has passed", "Choose a day from today on."),
    "phase_there": ("Another phase is on those days now", "Drop that one first."),
    "no_post": ("Nothing can be sent from here", "No post service is set up on this machine; the README says how."),
    "stops_not_theirs": ("Not for everybody", "Open stops go only to those who may read health notes."),
    "no_sets": ("No set yet", "Log at least one set before ending the exercise."),
}  # fmt: skip


def problem_words(problem: Problem) -> str:
    """A sentence about one field."""
    facts = dict(problem.facts)
    if "ago_s" in facts:
        minutes = round(float(facts["ago_s"]) / 60)
        facts["ago"] = "just" if minutes < 1 else "a minute" if minutes == 1 else f"{minutes} minutes"
    return PROBLEMS[problem.code].format(**facts).replace("just ago", "just now")


def refusal_words(error: Refused) -> tuple[str, str]:
    """What is refused, and what to do about it."""
    title, advice = REFUSALS[error.code]
    days: dict[str, object] = {
        name: long_day_words(str(error.facts[name])) for name in ("since", "date") if name in error.facts
    }
    facts: dict[str, object] = {**error.facts, **days}
    return title.format(**facts), advice.format(**facts)
