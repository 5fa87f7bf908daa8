"""The closed lists of words that data may hold: answers, states, faults, events, purposes and the rest.

Each is a string enumeration, so that the same word stands in a file, in the store and in the code. Not for how a word
is shown to a person (see `sentences` and the pages).
"""

from enum import StrEnum


class Verdict(StrEnum):
    """The five answers."""

    KEEP = "keep"
    WATCH = "watch"
    REPAIR = "repair"
    RETIRE = "retire"
    UNPROVEN = "unproven"


CONDEMNED = frozenset({Verdict.REPAIR, Verdict.RETIRE})


class State(StrEnum):
    """How one quantity stands against its limits."""

    WITHIN = "within"
    WATCH = "watch"
    PAST = "past"
    UNPROVEN = "unproven"
    NO_BASELINE = "no_baseline"


class FaultKind(StrEnum):
    """What can be wrong with a motor; NONE is a sound one."""

    NONE = "none"
    DEMAGNETISED_ROTOR = "demagnetised_rotor"
    CRACKED_MAGNET = "cracked_magnet"
    WORN_BEARING = "worn_bearing"
    BENT_SHAFT = "bent_shaft"
    SHORTED_TURN = "shorted_turn"
    TIMING_MOVED = "timing_moved"
    FAILING_SENSOR = "failing_sensor"
    BAD_JOINT = "bad_joint"


FAULTS = tuple(f for f in FaultKind if f is not FaultKind.NONE)


class SetUp(StrEnum):
    """What readings have in common that can be wrong while the motor is sound: each is one witness."""

    SUPPLY = "supply"  # supply, controller or setting
    CLAMP = "clamp"  # clamp or stand
    LEVER = "lever"  # lever or scale
    SWEEP = "sweep"  # the timing sweep
    GAUGE = "gauge"
    OHMMETER = "ohmmeter"
    PROBE = "probe"  # of the magnetic field
    HAND = "hand"  # eyes, ears and hands of one day


class EventKind(StrEnum):
    """What can happen to a motor."""

    RUN = "run"
    CRASH = "crash"
    DUNKED = "dunked"
    OVERHEATED = "overheated"
    BEARINGS_REPLACED = "bearings_replaced"
    ROTOR_REPLACED = "rotor_replaced"
    SHAFT_REPLACED = "shaft_replaced"
    TIMING_CHANGED = "timing_changed"
    SENSOR_BOARD_REPLACED = "sensor_board_replaced"
    REWOUND = "rewound"
    MENDED = "mended"
    CLEANED = "cleaned"
    RETURNED = "returned"
    RETIRED = "retired"
    HANDED_OVER = "handed_over"
    FITTED = "fitted"
    REMOVED = "removed"
    PUT_AWAY = "put_away"


GRAVE = (EventKind.CRASH, EventKind.DUNKED, EventKind.OVERHEATED)


class Purpose(StrEnum):
    """What a reading was taken for: only those of the standard run are judged with each other."""

    STANDARD = "standard"
    FIRST_SPIN = "first_spin"
    TIMING_PULL = "timing_pull"
    LOAD = "load"
    COOLING = "cooling"
    COAST_DOWN = "coast_down"
    STUDY = "study"
    REFERENCE = "reference"


class Method(StrEnum):
    """The schools of taking KV."""

    LOADED_SUPPLY = "loaded-supply"
    FIXED_VOLT = "fixed-volt"
    BACK_EMF = "back-emf"
    INSTRUMENT = "instrument"


class Placement(StrEnum):
    """Where the motor sat while it was heard or felt."""

    STAND = "stand"
    HAND = "hand"
    MACHINE = "machine"


class Spot(StrEnum):
    """Where a temperature was felt."""

    BELL = "bell"
    STATOR = "stator"
    CAN = "can"
    CONTROLLER = "controller"
    LEADS = "leads"


class Look(StrEnum):
    """What the eye and the hand say of an item."""

    OK = "ok"
    DOUBT = "doubt"
    BAD = "bad"


class Spin(StrEnum):
    """How a first spin ran."""

    SMOOTH = "smooth"
    ROUGH = "rough"


class Sweep(StrEnum):
    """How the timing sweep ran."""

    EVENLY = "evenly"
    HUNTED = "hunted"


class Ran(StrEnum):
    """How a motor ran in a trial of motor against controller."""

    WELL = "well"
    POORLY = "poorly"


class HallKind(StrEnum):
    """What the three lamps say."""

    GOOD = "good"
    STUCK = "stuck"
    INVERTED = "inverted"
    SWAPPED = "swapped"
    INCOMPLETE = "incomplete"


class Turning(StrEnum):
    """Which way a shaft was turned by hand."""

    NOT_NOTED = "not noted"
    CLOCKWISE = "clockwise"
    COUNTERCLOCKWISE = "the other way"


class PolesBy(StrEnum):
    """How a pole count is known."""

    LABEL = "label"
    COUNTED = "counted"
    ELECTRICAL = "electrical"
    ASSUMED = "assumed"


class GuardKind(StrEnum):
    """Why a live run was stopped by itself, or what the instrument reported."""

    CURRENT = "current"
    HEAT = "heat"
    ERRATIC = "erratic"
    HOLD = "hold"
    SPEED = "speed"
    VOLTS = "volts"
    INSTRUMENT = "instrument"


class Source(StrEnum):
    """Whose value a quantity is compared with."""

    OWN = "own"
    TRANSLATED = "translated"
    MODEL = "model"
    YARDSTICK = "yardstick"
    CEILING = "ceiling"
    LABEL = "label"
    MACHINE = "machine"
    ZERO = "zero"


class NoteKind(StrEnum):
    """What has to be said beside a number."""

    TEMPERATURE_ASSUMED = "temperature_assumed"
    BACKGROUND_NOT_NOTED = "background_not_noted"
    NEAR_THE_HALL = "near_the_hall"
    NOTED_ONCE = "noted_once"
    NOT_COMPARABLE = "not_comparable"
    NO_LINE = "no_line"
    ONE_CHECK_SINCE_RESET = "one_check_since_reset"
    RUNS_DIFFER = "runs_differ"
    MEASURED_BEFORE = "measured_before"
    KV_AND_DETENT_DISAGREE = "kv_and_detent_disagree"
    WORSE_THAN_MODEL = "worse_than_model"
    SLIP = "slip"
    BASELINE_ODD = "baseline_odd"
    BASELINE_IN_DOUBT = "baseline_in_doubt"
    RIG_SUSPECT = "rig_suspect"
    BY_LABEL = "by_label"
    HOT_MOTOR = "hot_motor"
    EARLIER_SITTING = "earlier_sitting"
    SENSORLESS = "sensorless"
    RIG_OUT = "rig_out"
    TRANSLATED = "translated"
    IN_PARTS = "in_parts"
    ALIKE_WHATEVER = "alike_whatever"
    BROUGHT = "brought"
    SETTINGS_DIFFER = "settings_differ"
    SETTINGS_TOGETHER = "settings_together"
