import { lazy, Suspense } from "react";
import { Navigate, useParams } from "react-router";
import { Control } from "../gates/Control";
import { Dead } from "../gates/Dead";
import { Match } from "../gates/Match";
import { Plate } from "../gates/Plate";
import { Power } from "../gates/Power";
import { Signal } from "../gates/Signal";
import { Span } from "../gates/Span";
import { Tune } from "../gates/Tune";
import { Turn } from "../gates/Turn";
import { Wake } from "../gates/Wake";
import { History } from "../keep/History";
import { Keep } from "../keep/Keep";
import { Sheet } from "../sheet/Sheet";
import { DriveDesk, useDesk } from "./drive";
import { Failed } from "./Failed";
import { DriveFrame, Frame } from "./Frame";

// What only one screen needs comes along with it: charts, and the stop circuit.
const Stop = lazy(() => import("../gates/Stop").then((m) => ({ default: m.Stop })));
const Bench = lazy(() => import("../bench/Bench").then((m) => ({ default: m.Bench })));

const screens: Record<string, React.ComponentType> = {
  match: Match,
  dead: Dead,
  power: Power,
  control: Control,
  wake: Wake,
  plate: Plate,
  stop: Stop,
  turn: Turn,
  tune: Tune,
  span: Span,
  signal: Signal,
  bench: Bench,
  sheet: Sheet,
  keep: Keep,
  history: History,
};

export function DriveScreens() {
  const { id = "", screen = "" } = useParams();
  const Screen = screens[screen];
  if (!Screen) return <Navigate to={`/drives/${id}/plate`} replace />;
  return (
    <DriveDesk
      key={id}
      id={id}
      waiting={(error) => (
        <Frame where={null}>
          <p className="p-6">{error || "Reading…"}</p>
        </Frame>
      )}
    >
      <Open screen={screen}>
        <Screen />
      </Open>
    </DriveDesk>
  );
}

// A stop circuit by itself has its one gate, and its history.
const alone = ["stop", "history"];

function Open({ screen, children }: { screen: string; children: React.ReactNode }) {
  const { view } = useDesk();
  if (view.drive.stop?.alone && !alone.includes(screen)) return <Navigate to={`/drives/${view.id}/stop`} replace />;
  return (
    <DriveFrame screen={screen}>
      <Failed key={screen}>
        <Suspense fallback={<p className="p-6">Reading…</p>}>{children}</Suspense>
      </Failed>
    </DriveFrame>
  );
}
