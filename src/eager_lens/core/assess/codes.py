"""The codes of findings: what scripts, tests and the window tell them apart by."""

from enum import StrEnum


class Code(StrEnum):
    """One for each kind of finding, in the order of the rules' modules."""

    # rules/addressing.py
    IN_POOL = "in-pool"
    OUTSIDE_SUBNET = "outside-subnet"
    RESERVED_ADDRESS = "reserved-address"
    SUBNETS_OVERLAP = "subnets-overlap"
    GATEWAY_OUTSIDE = "gateway-outside"
    POOL_HALF = "pool-half"
    POOL_OUTSIDE = "pool-outside"
    POOL_REVERSED = "pool-reversed"
    RESERVATION_UNKNOWN = "reservation-unknown"
    RESERVATIONS = "reservations"
    NOT_GIVEN = "not-given"
    DUPLICATE_ADDRESS = "duplicate-address"
    SAME_HARDWARE = "same-hardware"
    NO_ADDRESS = "no-address"
    NO_SUBNET = "no-subnet"
    APART_FROM_RECORDER = "apart-from-recorder"
    WRONG_SIDE = "wrong-side"

    # rules/labels.py
    SAME_SERIAL = "same-serial"
    GROUP_HARDWARE = "group-hardware"
    PUBLIC_RANGE = "public-range"
    GATEWAY_NO_ROUTER = "gateway-no-router"
    NO_GATEWAY = "no-gateway"
    FIRMWARE_OLD = "firmware-old"

    # rules/clocks.py
    CLOCK_DRIFTS = "clock-drifts"
    TIME_SERVER = "time-server"

    # rules/drives.py
    PURPOSE_FAR = "purpose-far"
    PURPOSE_FRAMES = "purpose-frames"
    PURPOSE_COARSE = "purpose-coarse"
    PURPOSE_STEEP = "purpose-steep"
    TARGET_BLIND = "target-blind"
    RATE_UNLIKELY = "rate-unlikely"
    NO_SPACE = "no-space"
    BAYS = "bays"
    NO_REDUNDANCY = "no-redundancy"
    DRIVES_WORN = "drives-worn"
    REBUILD_RISKY = "rebuild-risky"
    CARD_WORN = "card-worn"

    # rules/feeding.py
    POWERED_PORTS = "powered-ports"
    POWER_OVER = "power-over"
    POWER_NEAR = "power-near"
    SET_ASIDE_OVER = "set-aside-over"
    UPLINK_DARK = "uplink-dark"
    UNFED = "unfed"
    CLASS_OVER_PORT = "class-over-port"
    PORT_WITHOUT_POWER = "port-without-power"
    FEEDS_NOTHING = "feeds-nothing"
    FED_TWICE = "fed-twice"
    INJECTOR_MANY = "injector-many"
    WRONG_VOLTAGE = "wrong-voltage"
    SUPPLY_OVER = "supply-over"
    SUPPLY_DROP = "supply-drop"
    UPS_OVER = "ups-over"
    UPS_SHORT = "ups-short"
    UPS_PARTLY = "ups-partly"
    UPS_NO_RECORDER = "ups-no-recorder"

    # rules/handover.py
    FAILED_CHECK = "failed-check"
    GONE_CHECK = "gone-check"
    SHEET_GAPS = "sheet-gaps"

    # rules/inventory.py
    SAME_NAME = "same-name"
    NO_PLACE = "no-place"

    # rules/links.py
    DANGLING_LINK = "dangling-link"
    PORT_TWICE = "port-twice"
    NO_SUCH_PORT = "no-such-port"
    TOO_FEW_PORTS = "too-few-ports"
    LOOP = "loop"
    LINK_NEAR = "link-near"
    LINK_OVER = "link-over"
    CUT_OFF = "cut-off"
    NOT_PLUGGED = "not-plugged"
    UNKNOWN_KIND = "unknown-kind"
    INTERNET_PORT = "internet-port"
    ORPHAN_DEVICE = "orphan-device"
    ROUTER_BETWEEN = "router-between"
    LATE_KEY_FRAME = "late-key-frame"
    OUTGOING_OVER = "outgoing-over"
    UPLOAD_NEAR = "upload-near"
    UPLOAD_OVER = "upload-over"
    NO_WAY_TO_VIEWER = "no-way-to-viewer"
    FAR_PORTS = "far-ports"

    # rules/motion.py
    RULE_BLIND = "rule-blind"
    RULE_UNUSED = "rule-unused"
    INPUT_NOTHING_AFTER = "input-nothing-after"
    NOTHING_AFTER = "nothing-after"
    NEARLY_ALWAYS = "nearly-always"
    BEFORE_KEY_FRAME = "before-key-frame"
    CHAIN_BROKEN = "chain-broken"
    BEFORE_MEMORY = "before-memory"

    # rules/radio.py
    SAME_ENDS = "same-ends"
    BRIDGE_ALONE = "bridge-alone"
    CLIENT_TWICE = "client-twice"
    OPEN_RADIO = "open-radio"
    RADIO_UNPLANNED = "radio-unplanned"
    RADIO_WEAK = "radio-weak"
    RADIO_BLOCKED = "radio-blocked"
    RADIO_TIGHT = "radio-tight"
    AIR_NEAR = "air-near"
    AIR_OVER = "air-over"
    EIRP_HIGH = "eirp-high"

    # rules/registering.py
    NOT_REGISTERED = "not-registered"
    CHANNELS = "channels"
    NO_SUCH_CHANNEL = "no-such-channel"
    CHANNEL_TWICE = "channel-twice"
    UNKNOWN_RECORDER = "unknown-recorder"
    INCOMING_OVER = "incoming-over"
    INCOMING_NEAR = "incoming-near"
    PICTURE_TOO_LARGE = "picture-too-large"
    CODEC = "codec"
    TWO_RECORDERS = "two-recorders"
    SAME_RECORDER_TWICE = "same-recorder-twice"

    # rules/runs.py
    LONG_CABLE = "long-cable"
    ZERO_CABLE = "zero-cable"
    WEAK_RUN = "weak-run"
    OVER_CLASS = "over-class"
    CLAD_CABLE = "clad-cable"
    OUTDOOR_RUNS = "outdoor-runs"
    THIN_CABLE = "thin-cable"

    # rules/schedule.py
    NO_WEEK = "no-week"
    EMPTY_WEEK = "empty-week"
    RECORDS_NOTHING = "records-nothing"
    UNUSED_WEEK = "unused-week"
    EXCEPTION_WITHOUT_WEEK = "exception-without-week"
    EXCEPTIONS_OVERLAP = "exceptions-overlap"
    EXCEPTION_IDLE = "exception-idle"
    SCHEDULE_SLIP = "schedule-slip"
    NO_SUMMER_TIME = "no-summer-time"

    # rules/sides.py
    NO_CAMERA_SIDE = "no-camera-side"
    SIDES_SHARE_SUBNET = "sides-share-subnet"
    CAMERA_SIDE_OUTSIDE = "camera-side-outside"
    EVENT_TARGET = "event-target"
    CAMERA_SIDE_TAKEN = "camera-side-taken"

    # rules/sizing.py
    DAYS_SHORT = "days-short"
    ERASED_EARLY = "erased-early"
    DAYS_DOUBTFUL = "days-doubtful"
    DAYS_OVER = "days-over"
    COSTLY_CODEC = "costly-codec"
    UNKNOWN_SCENE = "unknown-scene"
    ASSUMED_RATES = "assumed-rates"
    ENTERED_RATES = "entered-rates"
    PURPOSE_MISSED = "purpose-missed"
    NO_CAP = "no-cap"
    LOW_CAP = "low-cap"
