"""Wording of problems beside fields and of refusals."""

import re
from typing import Any

from backsquat.core.errors import Problem, Refused
from backsquat.ui.phrases.days import long_day_words

PROBLEMS: dict[str, str] = {
    "season_taken": "A season from {first} to {last} is there already. Begin after it, or end before.",
    "library_kind": "This is no library of movements: it must be the JSON as it was exported.",
    "library_entry": "{code}: {what}. Nothing was added.",
    "file_heavy": "This file asks for more time or memory than one of its kind should. Save it again without merged areas "
    "or empty sheets, or in parts.",
    "file_damaged": "This file is damaged, or not what its name says. Save it again in the program it comes from.",
    "archive_twice": "The archive holds {name} twice: it must be the zip as it was exported.",
    "archive_kind": "This is no archive of a squad: it must be the zip as it was exported.",
    "archive_unsound": "{what}",
    "archive_coach": "Nobody in this archive is a head coach with this name to sign in with.",
    "another_week": "A session moves inside its week. Plan it in another week's block instead.",
    "nothing_left_out": "Nothing of this week remains to leave out: it has passed, begun, or is left out already.",
    "day_over": "This day has passed: put the match in on the season's page.",
    "has_match": "There is a match on this day already.",
    "same_progression": "It follows this progression already.",
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
    "no_swap": "This movement cannot stand in its stead here.",
    "not_in_session": "This is not in the session any more. Look it over as it is now.",
    "superset_full": "A superset holds at most {most}: more than that is a circuit.",
    "tempo": "Four numbers: down-bottom-up-top, for example 3-0-1-0.",
    "reach_range": "A reach is above 0 and at most {most:g} cm.",
    "height_range": "A height is above 0 and at most {most:g} cm.",
    "help_range": "A counterweight is from 0 to {most:g} kg.",
    "window_range": "Each window as low/high, from 1 to {most} reps.",
    "window_order": "The top of the window must not be under its bottom; the same for both is fixed reps.",
    "too_many_exercises": "A block holds at most {most} exercises.",
    "last_exercise": "A block needs one exercise at least.",
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
    "exercise_lines": "Some exercises need another look, see beside them.",
    "tempo_format": "Four numbers: down-bottom-up-top, for example 3-0-1-0.",
    "too_many_edits": "Between one and {most} loads at a time.",
    "doubt_mass": "{load} × {reps} would be {masses} × body mass. Is that right?",
    "doubt_best": "{load} × {reps} is {percent} % over the best on record ({best} kg). Is that right?",
    "logged_meanwhile": "{name}'s set {number} was logged {ago} ago by {by}. Another set?",
    "not_in_stock": "{load} {unit} is no load of {room}. Was it really that?",
    "over_limit": "A limit allows at most {most:g} kg on this day.",
    "no_such_movement": "No movement of this name; choose one of the list.",
    "no_such_screen": "No screen of this name; choose one of the list.",
    "on_no_ladder": "This movement is on no ladder, so it has no level to earn.",
    "nobody_here": "There is nobody in the squad yet.",
    "exercise_what": "There is no “{text}” here. Choose a movement or a ladder of the list.",
    "typed_lines": "Every line of the exercises has to be understood first: see below.",
    "typed_nothing": "What is done here? Write the exercise's name beside the numbers.",
    "typed_unknown": "There is no “{text}” in this library.",
    "typed_many": "Which “{text}”?",
    "typed_day": "On which day? Begin with a line like Monday.",
    "typed_progression": "There is no progression “{text}”. Write: as wave, as fixed step, as stages …",
    "ladder_progression": "An own level has no other progression: leave out the words after “as”.",
    "no_ladder": "That progression belongs to a ladder: write “own” and the ladder's name.",
    "no_sides": "Both legs work at once in it: leave out “each side”.",
    "seconds_or_reps": "Seconds go with holds, reps with everything else.",
    "done_in_reps": "{name} is done in reps: say how many, or another exercise.",
    "rounds_or_sets": "{rounds} rounds or {sets} sets? In a circuit a set is done each round: leave one of them out.",
    "own_reps": "{name} gives the reps of each week itself: leave them out, and set its weeks under Exercises.",
    "own_reserve": "{name} gives the reps in reserve itself: leave RIR out.",
    "exercise_what_near": "There is no “{text}” here. Perhaps: {names}?",
    "bells": "Masses with spaces between, 12*1 for a single one: 4 6 8 10 12.5",
    "stack_range": "Lowest, step and heaviest in that order: a step above zero, the heaviest not under the lowest.",
    "band_range": "Pull when short and when long, the long one the greater.",
    "missing": "Please fill this in.",
    "not_a_number": "Write a number, for example 82.5.",
    "not_whole": "Write a whole number.",
    "not_a_date": "Write the date as year-month-day, for example 2026-11-23, in the years 1900 to 2199.",
    "not_a_choice": "Choose one of: {choices}.",
    "out_of_range": "Choose a value from {low} to {high}.",
    "unknown_rule": "There is no rule called {name}.",
    "load_range": "The load must be above 0 and at most {most:g} kg.",
    "reps_range": "Reps go from 0 to {most}.",
    "depth_over_reps": "Of {reps} reps, between 0 and {reps} can have been to depth.",
    "reserve_range": "RIR goes from 0 to {most}.",
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
    "not_open": "This is not open to {name} now: see readiness and ladders, stops and limits.",
    "sets_range": "Sets go from 1 to {most}.",
    "wave_reps_range": "Each week needs from 1 to {most} reps.",
    "wave_reserve_range": "Each week asks for RIR 0 to {most}.",
    "wave_format": "Write each week as reps/RIR, separated by spaces: 8/3 6/2 4/2.",
    "rest_range": "Rest goes from {low} to {high} seconds.",
    "not_monday": "A block starts on a Monday.",
    "block_begun": "Sets were logged in it: its first week stays.",
    "weeks_begun": "Sets were logged in week {weeks}: it cannot be shorter than that.",
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
    "between": "Give a number from {low:g} to {high:g}.",
    "picture_large": "The picture is too large: at most {most} million bytes, or 60 million pixels.",
    "picture_kind": "This is no picture that can be read here: JPEG, PNG or WebP.",
    "picture_small": "The picture is too small to measure in: at least {least} pixels each way.",
    "picture_size": "This is no size of a picture.",
    "picture_missing": "Choose a picture, or take a frame of a clip.",
    "outside_picture": "This point is outside the picture.",
    "not_of_kind": "This point is not placed in such a picture.",
    "too_near": "Two points of one line are too near each other to measure.",
    "not_a_point": "A point is two numbers, across and down in pixels.",
    "not_played_yet": "This match has not been played yet.",
    "frames_range": "From one picture to {most} frames.",
    "no_points": "Place at least one point.",
    "password_short": "A password needs at least {least} characters.",
}


REFUSALS: dict[str, tuple[str, str]] = {
    "locked": ("{name} is stopped here", "Pain ({region}) stopped this movement. It opens again when a physio's or "
               "doctor's clearance is recorded on the athlete's page."),
    "not_ready": ("{name} is not ready for the bar", "No loaded bar until the readiness check is passed, or a coach "
              "clears the athlete by name and reason. The checklist is on the athlete's page under Readiness and ladders."),
    "unearned": ("{name} has not earned this level", "The movement is a harder level of its ladder than {name} stands on. "
                 "The own level stands in; who can do more is moved under Readiness and ladders, with the reason."),
    "consent": ("No guardian's consent for {name}", "Nothing is lifted before it is on file, on the athlete's page; levels "
                "without a weight are open."),
    "away": ("{name} is away", "Away since {since}. Record the return first, under Limits and health: it says how to "
             "ease in."),
    "not_cleared": ("Not cleared yet", "After illness, injury or a pain stop somebody qualified says yes first: note who."),
    "screen_first": ("Screen before any load", "Away for {days} days: the standing squat is screened again before "
                     "the return is accepted."),
    "still_away": ("Already away", "This absence is still open; record the return first."),
    "barred": ("{name} may not do this now", "A limit set by {by} forbids {movement}. Limits stand on the athlete's page."),
    "not_yet": ("This session has not come yet", "Sets can be logged from {date} on."),
    "exercise_gone": ("This was taken out meanwhile", "Reload the page: the list has changed."),
    "nothing_follows": ("Nothing comes after it in this block", "There is no next session to put a number in."),
    "not_live": ("This number has changed", "A newer plan was published since this page was opened. Reload it."),
    "no_load": ("There is no load to lift here", "The plan has no number for {name} in this week."),
    "past": ("The past stays as it was", "Weeks that have begun and have logged sets cannot be changed."),
    "no_reserve": ("Nothing to say of this set", "RIR is said of reps that did not hurt."),
    "pain_reported": (
        "This set reported pain",
        "Who logged it may correct it within {minutes} minutes; after that the head coach, or the physio by a "
        "clearance. The stop stays until then.",
    ),
    "somebody_else": (
        "Typed by somebody else",
        "This page was filled in by another person, who was signed in here before. Nothing was stored.",
    ),
    "elsewhere_too": (
        "{name} is in another squad too",
        "The person who looks after the installation makes the link: .venv/bin/python -m backsquat reset-link --help",
    ),
    "last_coach": ("A squad needs a head coach", "Give somebody else the role first."),
    "archive_used": ("Somebody has written here since", "What an archive brought is taken out as a whole only while "
                     "nothing else was written; nothing was changed."),
    "block_begun": ("Somebody has trained in this block", "What was logged stays where it was. A block that has begun is "
                    "shortened, under Exercises, and its last weeks are on no floor then."),
    "weeks_taken": ("{name} plans these weeks now", "Move or drop that block first."),
    "undone": ("Nothing to undo", "This change was already undone, or a later one stands on it: undo that first."),
    "not_shipped": ("Nothing to restore", "This one was made by the squad; there is no shipped one behind it."),
    "in_log": ("Logged sets stand behind it", "Family, load, sides, share of the body, depth and regions give old logs "
               "their meaning and stay as they are. Copy the movement and change the copy."),
    "no_level": ("No level to move to", "Nothing further on this ladder is open to this athlete in this room."),
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
    "no_block": ("No block to do it in", "Plan a block first: the road runs in its sessions."),
    "no_road": ("No road to be run", "The bar is open already, or nothing on the road is open to this athlete now."),
    "own_room": ("This is the squad's own room", "It can be changed, not taken away."),
    "room_in_use": ("Somebody is to train there", "End what is arranged for this room first, or wait until it is over."),
    "no_easing": ("Nothing to make a deload week of", "It is a deload already, logged, or not to be lifted."),
    "nothing_to_restore": ("Nothing to bring back", "What is still to come is already as it was in that version."),
    "no_fix": ("Nothing to fix it with", "The block or the room has changed since. Reload the page."),
    "no_rig": ("Nothing to load it with", "This room has nothing to load {movement} with. Describe it under Room."),
    "enough_sets": ("All sets are logged", "Correct one of them if it went differently."),
    "season_used": ("Matches are in this season", "Take them back first."),
    "heavy_busy": ("Other files are being read or made", "Nothing was stored. Wait a few seconds and try again."),
    "pdf_failed": ("No PDF came of it", "Print the page from the browser, or keep it as one file."),
    "no_pdf": (
        "This machine cannot make a PDF",
        "The system's library Pango is missing (README: PDF). Print the page, or keep it as one file.",
    ),
    "session_out": ("Nobody does this session that week", "Hold it again first."),
    "missed_answered": (
        "This was answered already",
        "Its work was moved on or left when it was missed. Take that answer back first.",
    ),
    "squad_left": (
        "You are not in that squad any more",
        "Nothing was stored. The pages that open from here are those of the squad you are in.",
    ),
    "no_idea": ("Nothing to take", "Put an idea together first; six at most."),
    "no_fit": ("Nothing to fit", "The week has changed since, or fits around its matches already."),
    "session_begun": ("Somebody has lifted in it", "A session that has begun stays where it is."),
    "day_gone": ("That day has passed", "Choose a day from today on."),
    "phase_there": ("Another phase is on those days now", "Drop that one first."),
    "pictures_not_agreed": ("{name} has not agreed to pictures", "Write down whose consent it is first, above the form."),
    "pictures_many": ("There are {most} pictures already", "Erase some that nobody needs any more."),
    "no_card_movement": ("It says of no movement", "Only a picture of a movement can stand beside it on a card."),
    "not_agreed": ("Has everybody in it agreed?", "Tick that they have; a picture of somebody is theirs."),
    "picture_erased": ("The picture is erased", "What was read from it stays."),
    "nothing_for_screens": ("Nothing to record", "Place the points first, and choose what to record."),
    "no_finder": ("Nothing suggests points here", "No finder is set up on this machine; the README says how."),
    "say_sure": ("Say that you are sure", "Tick the box: an erased picture cannot be brought back."),
    "no_post": ("Nothing can be sent from here", "No post service is set up on this machine; the README says how."),
    "stops_not_theirs": ("Not for everybody", "Open stops go only to those who may read health notes."),
    "no_sets": ("No set yet", "Log at least one set before ending the exercise."),
}  # fmt: skip


ISO_DAY = re.compile(r"\d{4}-\d\d-\d\d")


def problem_words(problem: Problem) -> str:
    """A sentence about one field."""
    facts = {name: _as_day(fact) for name, fact in problem.facts.items()}
    if "ago_s" in facts:
        minutes = round(float(facts["ago_s"]) / 60)
        facts["ago"] = "just" if minutes < 1 else "a minute" if minutes == 1 else f"{minutes} minutes"
    return PROBLEMS[problem.code].format(**facts).replace("just ago", "just now")


def _as_day(fact: Any) -> Any:
    """A day as it is written in a sentence; anything else as it is."""
    return long_day_words(fact) if isinstance(fact, str) and ISO_DAY.fullmatch(fact) else fact


def refusal_words(error: Refused) -> tuple[str, str]:
    """What is refused, and what to do about it."""
    title, advice = REFUSALS[error.code]
    facts = {name: _as_day(fact) for name, fact in error.facts.items()}
    return title.format(**facts), advice.format(**facts)
