/** A UUIDv7: time-ordered, made here so that a repeated request can be recognised. */
export function newId(): string {
  const b = crypto.getRandomValues(new Uint8Array(16));
  let t = Date.now();
  for (let i = 5; i >= 0; i--) {
    b[i] = t % 256;
    t = Math.floor(t / 256);
  }
  b[6] = (b[6]! & 0x0f) | 0x70;
  b[8] = (b[8]! & 0x3f) | 0x80;
  const h = Array.from(b, (x) => x.toString(16).padStart(2, "0")).join("");
  return `${h.slice(0, 8)}-${h.slice(8, 12)}-${h.slice(12, 16)}-${h.slice(16, 20)}-${h.slice(20)}`;
}

function kept(key: string): string {
  const have = localStorage.getItem(key);
  if (have) return have;
  const id = newId();
  localStorage.setItem(key, id);
  return id;
}

/** This browser. */
export const device = () => kept("tingate.device");

/** Who works; empty until chosen. */
export const person = () => localStorage.getItem("tingate.person") ?? "";
