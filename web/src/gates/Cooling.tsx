import { Choice } from "../ui/Field";

/** The motor's cooling: asked at Plate, where it is stamped, and at Match, where it decides how slowly the motor may run. */
export function Cooling({ className }: { className?: string }) {
  return (
    <Choice
      path="motor.cooling"
      label="Cooling"
      options={[
        ["own-fan", "own fan"],
        ["forced", "forced"],
        ["none", "none"],
        ["liquid", "liquid"],
      ]}
      className={className}
    />
  );
}
