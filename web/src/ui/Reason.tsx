import { useState } from "react";

/** A button that asks for a reason before it does something. */
export function Reason({
  ask,
  label,
  does,
  placeholder,
  send,
}: {
  ask: string;
  label: string;
  does: string;
  placeholder: string;
  send: (reason: string) => Promise<boolean>;
}) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  if (!open)
    return (
      <button className="act" onClick={() => setOpen(true)}>
        {ask}
      </button>
    );
  return (
    <form
      className="mt-1 flex gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void send(reason).then((done) => {
          if (!done) return;
          setOpen(false);
          setReason("");
        });
      }}
    >
      <input
        className="cell text"
        aria-label={label}
        placeholder={placeholder}
        value={reason}
        onChange={(e) => setReason(e.target.value)}
        autoFocus
      />
      <button className="btn">{does}</button>
    </form>
  );
}
