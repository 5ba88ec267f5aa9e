import { sendBytes, type View } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";

/** A photo of the keypad at this setting, kept with the drive. */
export function KeypadPhoto({ code }: { code: string }) {
  const { view, act } = useDesk();
  const of = `setting ${code}`;
  async function keep(file: File | undefined) {
    if (!file) return;
    await act(() =>
      sendBytes<View>(
        `/api/drives/${view.id}/attachments?entry=${newId()}&of=${encodeURIComponent(of)}&name=${encodeURIComponent(file.name)}`,
        file,
        "application/octet-stream",
      ),
    );
  }
  return (
    <div className="flex flex-wrap items-center gap-2 text-[13px]">
      {view.state.attachments
        .filter((a) => a.of === of)
        .map((a) => (
          <a key={a.id} href={`/api/attachments/${a.sha256}`} target="_blank" rel="noreferrer">
            {a.type.startsWith("image/") ? (
              <img src={`/api/attachments/${a.sha256}`} alt={`Keypad at ${code}: ${a.name}`} className="max-h-24 border border-tin-3" />
            ) : (
              a.name
            )}
          </a>
        ))}
      <label className="act cursor-pointer">
        Photo of the keypad
        <input type="file" className="sr-only" accept="image/*" capture="environment" onChange={(e) => void keep(e.target.files?.[0])} />
      </label>
    </div>
  );
}
