import { useState } from "react";

/** A page of the manual, or the keypad, as a picture beside the form. It stays in this window: nothing of it is sent or kept. */
export function usePicture() {
  const [picture, setPicture] = useState<{ name: string; url: string } | null>(null);
  function take(f: File | undefined) {
    if (!f) return;
    const r = new FileReader();
    r.onload = () => setPicture({ name: f.name, url: r.result as string });
    r.readAsDataURL(f);
  }
  return { picture, take, drop: () => setPicture(null) };
}

const steps = [50, 75, 100, 150, 200, 300, 400];

export function Picture({ name, url, drop }: { name: string; url: string; drop: () => void }) {
  const [zoom, setZoom] = useState(100);
  const [turn, setTurn] = useState(0);
  const [bad, setBad] = useState(false);
  const at = steps.indexOf(zoom);
  return (
    <section className="mx-5 mb-2 flex h-[44%] shrink-0 min-h-40 flex-col border border-tin-3 bg-white" aria-label={`Picture ${name}`}>
      <div className="flex items-center gap-3 border-b border-tin-3 px-2.5 py-1 text-[13px]">
        <b className="font-semibold">{name}</b>
        <button className="act" aria-label="Smaller" disabled={at === 0} onClick={() => setZoom(steps[at - 1]!)}>
          −
        </button>
        <span className="n w-12 text-center">{zoom} %</span>
        <button className="act" aria-label="Larger" disabled={at === steps.length - 1} onClick={() => setZoom(steps[at + 1]!)}>
          +
        </button>
        <button className="act" onClick={() => setTurn((turn + 90) % 360)}>
          Turn
        </button>
        <button className="act ml-auto" onClick={drop}>
          Put away
        </button>
      </div>
      <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="The picture, to be moved with the arrow keys">
        {bad ? (
          <p className="p-3 text-stop">✕ {name} is no picture that can be shown here: wanted PNG, JPEG or WebP.</p>
        ) : (
          <img
            src={url}
            alt={`${name}, to type settings from`}
            style={{ width: `${zoom}%`, maxWidth: "none", rotate: `${turn}deg` }}
            onError={() => setBad(true)}
          />
        )}
      </div>
    </section>
  );
}
