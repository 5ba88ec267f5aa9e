/** States of IEC 61800-7-201 in the words that people use. */
export const states: [string, string][] = [
  ["not_ready_to_switch_on", "not ready"],
  ["switch_on_disabled", "switch-on disabled"],
  ["ready_to_switch_on", "ready"],
  ["switched_on", "switched on"],
  ["operation_enabled", "running"],
  ["quick_stop_active", "quick stop"],
  ["fault_reaction_active", "fault reaction"],
  ["fault", "fault"],
];

/** Why a run command does nothing, and what would help. */
export const blocks: Record<string, [string, string]> = {
  "no-power": ["No power", "Switch the mains on, and let the DC link charge."],
  "torque-off": ["Torque is off", "Close both channels, then give a fresh run command."],
  "reset-required": ["A reset is wanted", "Both channels are closed: press reset, then give a fresh run command."],
  asleep: ["Its controller sleeps", "It asks for less than its sleep; it starts by itself when it asks for more."],
  "fresh-command": ["A fresh run command is wanted", "Run is held from before. Let it go, and give it again."],
  interlock: ["An interlock is open", "Close the input that does it. Run held, some families start by themselves then."],
  coast: ["The second enable is open", "Close the input that does it, then give a fresh run command."],
  reference: ["The reference is lost", "Below 3.6 mA: the wire, or the sender."],
  direction: ["Reverse is not allowed", "It stands at zero and waits. The setting of directions allows forward only."],
  "stop-first": ["The tune has ended", "This family wants its stop key before it runs again."],
  fault: ["A fault is standing", "Cause first, then run command off, reset, run command on."],
  "power-cycle": ["Only a power cycle clears this", "The cause first. Then mains off until the display is dark, and on."],
};

const only = "As this drive is set it only warns, and runs on: stop it, and find the cause.";

/** What the drive warns of, and what comes of it. */
export const warnings: Record<string, [string, string]> = {
  "motor-overload": ["motor overload", "It trips if this goes on."],
  "drive-temperature": ["drive hot", "It trips if this goes on."],
  "input-phase": ["mains phase missing", only],
  "output-phase": ["motor phase missing", only],
  "earth-fault": ["current to earth", only],
  stall: ["shaft held fast", only],
};

/** What holds the ramp, and what comes of it. */
export const limits: Record<string, [string, string]> = {
  current: ["The current limit holds the ramp", "The rise takes longer than it is set to."],
  torque: ["A torque limit holds the ramp", "The speed follows later than it is asked to."],
  link: ["The DC link holds the fall", "The fall takes longer than it is set to: the load's energy has nowhere to go."],
  mains: [
    "The shaft feeds the DC link",
    "The mains is away. It slows by what load and losses take, and goes up again by itself when the mains is back.",
  ],
};

/** Where something can be wrong, in the order of the power's way. */
export const places: [string, string][] = [
  ["mains", "Mains and DC link"],
  ["motor", "Cable and motor"],
  ["shaft", "Shaft and load"],
  ["signals", "Signals"],
];
