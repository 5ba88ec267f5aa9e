import { expect, test } from "@playwright/test";

// What the browser keeps and sends, without a browser: storage, clock and server are stood in for.

type Sent = { id: string; edit: string; typed: string; sets: { path: string; text: string; seen?: string }[]; by: string };
type Answer = { status: number; body?: unknown } | "gone" | "swallowed";

const stored = new Map<string, string>();
const sent: Sent[] = [];
let answers: Answer[] = [];
let held: Promise<void> = Promise.resolve();

const problem = (status: number, errors: { field: string; got: string; want: string }[] = [], more = {}) => ({
  status,
  body: { status, title: "no", detail: "no", errors, ...more },
});

test.beforeAll(() => {
  const storage = {
    getItem: (k: string) => stored.get(k) ?? null,
    setItem: (k: string, v: string) => void stored.set(k, v),
    removeItem: (k: string) => void stored.delete(k),
  };
  const keyed = new Proxy(storage, {
    ownKeys: () => [...stored.keys()],
    getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true }),
  });
  Object.assign(globalThis, {
    localStorage: keyed,
    window: { addEventListener: () => {}, setTimeout: (f: () => void) => setTimeout(f, 400) },
    document: { querySelector: () => null },
    CSS: { escape: (s: string) => s },
    Request: class extends Request {
      constructor(url: string, init?: RequestInit) {
        super(url.startsWith("/") ? `http://127.0.0.1${url}` : url, init);
      }
    },
    fetch: async (r: Request) => {
      const body = (await r.json()) as Omit<Sent, "by">;
      sent.push({ ...body, by: r.headers.get("X-Tingate-Person") ?? "" });
      await held;
      const a = answers.shift() ?? { status: 200 };
      if (a === "swallowed") return await new Promise<never>((_, no) => r.signal.addEventListener("abort", () => no(r.signal.reason)));
      if (a === "gone") throw new TypeError("no answer");
      return new Response(JSON.stringify(a.body ?? { seq: 1 }), { status: a.status, headers: { "Content-Type": "application/json" } });
    },
  });
});

test.beforeEach(() => {
  stored.clear();
  stored.set("tingate.person", "rh");
  sent.length = 0;
  answers = [];
  held = Promise.resolve();
});

const box = (drive: string) => JSON.parse(stored.get(`tingate.outbox.${drive}`) ?? "null") as Record<string, unknown> | null;
const saver = async (drive: string) => new (await import("../web/src/app/saver")).Saver(drive, () => {});
/** Until a saver has nothing more to send. */
const idle = async (s: { count(): number }) => expect.poll(() => s.count()).toBe(0);

test("A box keeps its parts apart, and is gone when nothing lies in it", async () => {
  const { boxOf, keep, keepText } = await import("../web/src/app/outbox");
  keepText("d1", "reading.4D", "15.5");
  keepText("d1", "measure.dead/l1-l2", "0.1");
  keep("d1", "heard", [{ id: "1", code: "4A", text: "400", reader: "tk" }]);
  keepText("d2", "reading.4D", "16");
  expect(boxOf("d1").typed).toEqual({ "reading.4D": "15.5", "measure.dead/l1-l2": "0.1" });
  keepText("d1", "reading.4D", null);
  keepText("d1", "measure.dead/l1-l2", null);
  expect(box("d1")).toEqual({ heard: [{ id: "1", code: "4A", text: "400", reader: "tk" }] });
  keep("d1", "heard", undefined);
  expect(box("d1")).toBeNull();
  expect(boxOf("d2").typed).toEqual({ "reading.4D": "16" });
});

test("What earlier versions left under keys of their own is taken over, and a damaged box stops nothing", async () => {
  const { boxOf, keepText } = await import("../web/src/app/outbox");
  stored.set("tingate.reading.old.4D", "15.5");
  stored.set("tingate.measure.old.dead/measure/l1-l2", "0.1");
  stored.set("tingate.heard.old", '[{"id":"1","code":"4A","text":"400","reader":"tk"}]');
  stored.set("tingate.pending.old", "{damaged");
  stored.set("tingate.reading.other.4D", "9");
  expect(boxOf("old")).toEqual({
    typed: { "reading.4D": "15.5", "measure.dead/measure/l1-l2": "0.1" },
    heard: [{ id: "1", code: "4A", text: "400", reader: "tk" }],
  });
  expect(stored.has("tingate.reading.old.4D")).toBe(false);
  expect(stored.get("tingate.reading.other.4D")).toBe("9");
  stored.set("tingate.outbox.bad", "{damaged");
  expect(boxOf("bad")).toEqual({});
  keepText("bad", "voice", "1");
  expect(boxOf("bad").typed).toEqual({ voice: "1" });
});

test("What one visit types goes as one edit; what is typed meanwhile waits, and the newest text goes", async () => {
  const s = await saver("s1");
  let go = () => {};
  held = new Promise((done) => (go = done));
  s.begin("notes", "before");
  s.put("notes", "a", "visit-1");
  s.put("notes", "ab", "visit-1");
  s.put("tag", "X", "visit-2");
  expect(s.pending("notes")).toBe("ab");
  expect(box("s1")).not.toBeNull();
  go();
  await idle(s);
  expect(sent.map((b) => [b.edit, b.by, ...b.sets.map((x) => `${x.path}=${x.text}`)])).toEqual([
    ["visit-1", "rh", "notes=a"],
    ["visit-1", "rh", "notes=ab"],
    ["visit-2", "rh", "tag=X"],
  ]);
  expect(sent[0]!.sets[0]!.seen).toBe("before");
  expect(sent[1]!.sets[0]!.seen).toBe("a"); // what the server has by then
  expect(box("s1")).toBeNull();
});

test("Without an answer it is sent again under the same id, as who typed it; and after the page was closed", async () => {
  const s = await saver("s2");
  answers = ["gone", "gone", { status: 200 }];
  s.put("notes", "x", "visit-1");
  await expect.poll(() => s.offline).toBe(true);
  stored.set("tingate.person", "tk");
  await idle(s);
  expect(new Set(sent.map((b) => b.id)).size).toBe(1);
  expect(sent.map((b) => b.by)).toEqual(["rh", "rh", "rh"]);
  expect(s.offline).toBe(false);

  held = new Promise(() => {}); // the page is closed before the answer
  const closed = await saver("s3");
  closed.put("notes", "y", "visit-2");
  await expect.poll(() => sent.length).toBe(4);
  held = Promise.resolve();
  const opened = await saver("s3");
  await idle(opened);
  expect(sent[4]).toEqual(sent[3]);
});

test("What is refused stands aside with its reason, the rest goes on; sent again, or dropped", async () => {
  const s = await saver("s4");
  answers = [problem(422, [{ field: "motor.poles", got: "3", want: "an even number" }])];
  await s.all([
    { path: "motor.poles", text: "3" },
    { path: "notes", text: "n" },
  ]);
  await idle(s);
  expect(s.aside.map((a) => [a.path, a.text, a.reason])).toEqual([["motor.poles", "3", "got 3, want an even number"]]);
  expect(sent.at(-1)!.sets.map((x) => x.path)).toEqual(["notes"]);
  expect(s.setAside("motor.poles")).toBe("3");
  s.again(s.aside[0]!.id);
  await idle(s);
  expect(sent.at(-1)!.sets).toEqual([{ path: "motor.poles", text: "3" }]);
  answers = [problem(422)];
  s.put("tag", "", "visit-2");
  await idle(s);
  s.drop(s.aside[0]!.id);
  expect(s.aside).toEqual([]);
  expect(box("s4")).toBeNull();
});

test("What the server fails over again and again is sent part by part, then stands aside; a full disk is waited for", async () => {
  const s = await saver("s5");
  const fails = { status: 500 };
  answers = [fails, fails, fails, { status: 200 }, fails, fails, fails];
  await s.all([
    { path: "notes", text: "good" },
    { path: "where", text: "bad" },
  ]);
  await idle(s);
  expect(s.aside.map((a) => a.path)).toEqual(["where"]);
  expect(sent.map((b) => b.sets.map((x) => x.path).join("+"))).toEqual([
    "notes+where",
    "notes+where",
    "notes+where",
    "notes",
    "where",
    "where",
    "where",
  ]);
  const full = problem(507);
  answers = [full, full, full, full, { status: 200 }];
  s.put("tag", "T", "visit-2");
  await idle(s);
  expect(s.aside.map((a) => a.path)).toEqual(["where"]);
});

test("A conflict keeps both until one is chosen", async () => {
  const s = await saver("s6");
  answers = [problem(409, [], { conflict: { path: "notes", yours: "mine", theirs: "hers", by: "TK" } })];
  s.put("notes", "mine", "visit-1");
  await expect.poll(() => s.conflict?.theirs).toBe("hers");
  expect(s.lost.get("notes")).toBe("mine");
  s.settle("yours");
  await idle(s);
  expect(sent.at(-1)!.sets).toEqual([{ path: "notes", text: "mine", seen: "hers" }]);
  expect(s.conflict).toBeNull();
});

test("Figures are typed as a person would, never so that three digits after the point could be thousands", async () => {
  const { typed } = await import("../web/src/app/typed");
  expect([typed(15.5, 4), typed(0.001, 3), typed(1.234, 4), typed(1e-7, 2), typed(-2.5004, 4), typed(1455, 4)]).toEqual([
    "15.5",
    "0.0010",
    "1.2340",
    "0.00000010",
    "-2.5",
    "1455",
  ]);
});

test("An older answer stands in for the same drive only", async () => {
  const { of } = await import("../web/src/app/asked");
  const asked = (id: string) => ({ queryKey: ["wiring", id, 4] }) as never;
  expect(of("d1")("old", asked("d1"))).toBe("old");
  expect(of("d1")("old", asked("d2"))).toBeUndefined();
  expect(of("d1")("old")).toBeUndefined();
});

test("A network that swallows a request holds nothing up: the entry is offline, and goes again under the same id", async () => {
  const patience = AbortSignal.timeout;
  const waits: number[] = [];
  AbortSignal.timeout = (ms) => (waits.push(ms), patience(50));
  answers = ["swallowed", { status: 200 }];
  const s = await saver("swallowed");
  s.put("notes", "kept", "visit-1");
  await s.settled(); // what waits for it is let go
  expect([s.offline, s.pending("notes"), waits]).toEqual([true, "kept", [20_000]]);
  await idle(s);
  AbortSignal.timeout = patience;
  expect(sent.map((b) => b.id)).toEqual([sent[0]!.id, sent[0]!.id]);
  expect(s.offline).toBe(false);
});

test("What a hand does to a bench goes in its order, a knob's newest place once, and a refusal holds nothing up", async () => {
  const { InOrder } = await import("../web/src/bench/inOrder");
  const acts: string[] = [];
  const failed: unknown[] = [];
  let free = () => {};
  const queue = new InOrder(
    async (a) => {
      if (acts.length === 0) await new Promise<void>((go) => (free = go));
      acts.push(`${a.do} ${a.on ?? a.value}`);
      if (a.do === "break") throw new Error("cannot be");
      return acts.length * 10;
    },
    (e) => failed.push(e),
  );
  const off = queue.push({ do: "terminal", n: 1, on: false });
  const on = queue.push({ do: "terminal", n: 1, on: true });
  const moved = [1, 2, 3].map((value) => queue.push({ do: "analog", value }));
  const broken = queue.push({ do: "break", on: true });
  const after = queue.push({ do: "analog", value: 4 });
  expect(acts).toEqual([]);
  free();
  expect(await Promise.all([off, on, ...moved, broken, after])).toEqual([10, 20, 30, 30, 30, null, 50]);
  expect(acts).toEqual(["terminal false", "terminal true", "analog 3", "break true", "analog 4"]);
  expect(failed).toHaveLength(1);
});

test("An act whose answer does not come is given up and said so, and its late answer is heard all the same", async () => {
  const { inTime, Late, say } = await import("../web/src/app/client");
  let answered = (_: string) => {};
  const answer = new Promise<string>((yes) => (answered = yes));
  const heard: string[] = [];
  void answer.then((v) => heard.push(v));
  const given = await inTime(answer, 30).catch((e: unknown) => e);
  expect(given).toBeInstanceOf(Late);
  expect(say(given)).toContain("It may have been kept all the same");
  const swallowed = await new Promise((no) =>
    AbortSignal.timeout(5).addEventListener("abort", (e) => no((e.target as AbortSignal).reason)),
  );
  expect(say(swallowed)).toContain("It may have been kept all the same");
  answered("kept");
  await expect.poll(() => heard).toEqual(["kept"]);
  expect(await inTime(Promise.resolve("soon"), 30)).toBe("soon");
  await expect(inTime(Promise.reject(new Error("no")), 30)).rejects.toThrow("no");
});
