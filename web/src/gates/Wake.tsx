import { Link } from "react-router";
import { useDesk } from "../app/drive";
import { Face } from "../picture/Face";
import { CheckList } from "../ui/CheckList";
import { GateScreen } from "./GateScreen";

/** First power: covers on, line and DC link measured, the right drive, as found kept, delivery state. */
export function Wake() {
  const { view } = useDesk();
  const live = view.state.energy.state === "live";
  return (
    <GateScreen
      gate="wake"
      title="Wake"
      about="Go through the list before power comes; then measure, look, and keep what is found before anything is changed."
      figures={["unbalance"]}
      beside={<Face />}
    >
      {!live && (
        <p className="mb-3 border-l-[5px] border-must bg-white px-3 py-2 text-[13.5px]">
          <b className="text-must">●</b> Measurements of first power are live work. When locks are off and people are told, record the
          supply live at the band above.
        </p>
      )}
      <CheckList gate="wake" />
      {view.family.name && (
        <Link className="act" to={`/families/${view.family.name}?version=${view.family.version}`}>
          Keypad, recipes and words of {view.family.name}
        </Link>
      )}
    </GateScreen>
  );
}
