import { readFileSync } from "node:fs";
import { answer, check, inHand, nameSource, state, stateControl, statePower, wire } from "./commission";
import type { Browser, Page } from "@playwright/test";
import { axe, expect, field, openAs, openDrive, rail, saved, test } from "./tingate";

test("a drive wired in two schemes: a mis-landed wire is found, a wrong link is found, the list goes out and comes back", async ({
  page,
  start,
  folder,
  browser,
}) => {
  test.setTimeout(180_000);
  const p = await start(
    "serve",
    "--simulated",
    "--data",
    `${folder}/w`,
    "--listen",
    "127.0.0.1:0",
    "--clock",
    "2026-11-25T10:00:00Z",
    "--clock-rate",
    "120",
  );
  await page.goto(p.url);
  await page.getByLabel("Place", { exact: true }).fill("Works");
  await page.getByLabel("Your initials").fill("RH");
  await page.getByRole("radio", { name: /^Simulated/ }).check();
  await page.getByRole("button", { name: "Begin" }).click();
  await page.getByRole("button", { name: "New drive" }).click();
  await page.getByRole("dialog").getByLabel("Tag").fill("W-1");
  await page.getByRole("dialog").getByLabel("Drive family").selectOption("Tarn");
  await page.getByRole("button", { name: "Begin with the plate" }).click();
  await field(page, "rating.current").fill("16");
  await field(page, "rating.type").fill("TN4-016-F2K");
  const row = page.locator('[data-field^="motor.rows."]');
  await row.nth(0).selectOption("star");
  await row.nth(1).focus();
  for (const text of ["400", "50", "7.5", "15.5", "1455", "0.83"]) {
    await page.keyboard.type(text);
    await page.keyboard.press("Enter");
  }
  await saved(page);
  await nameSource(page);
  await state(page, "TN4-016");

  // Landing wires is dead work: refused before it is proved dead, in a sentence that says what to do.
  await stateControl(page);
  await page.getByRole("button", { name: "Landed at both ends: wire 1", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("dead work");
  await page.getByRole("alert").getByRole("button", { name: "Close" }).click();
  await rail(page, "Dead").click();
  await inHand(page, "M3");
  await answer(page, "dead", folder);
  await page.getByRole("button", { name: "Record DEAD" }).click();
  await expect(page.getByRole("region", { name: "Energy" })).toContainText("DEAD, proved");

  // Power: the links as found are not those of the row in use.
  await statePower(page);
  await field(page, "motor.fitted_joins").fill("");
  await field(page, "motor.fitted_lines").fill("U1-W2, V1-U2, W1-V2");
  await saved(page);
  await expect(check(page, "power/links/judged")).toContainText("As fitted it is delta: each coil sees 173 %");
  await expect(rail(page, "Power")).toContainText("barred");
  await field(page, "motor.fitted_joins").fill("U2-V2-W1");
  await field(page, "motor.fitted_lines").fill("U1, V1, W2");
  await saved(page);
  await expect(check(page, "power/links/judged")).toContainText("Coils work against one another");
  await field(page, "motor.fitted_joins").fill("W2-U2-V2");
  await field(page, "motor.fitted_lines").fill("U1, V1, W1");
  await expect(check(page, "power/links/judged")).toContainText("As fitted it is star");

  // Control, the other scheme: push buttons. The list follows; the sheet does too.
  await stateControl(page, { "wiring.command": "three-wire", "wiring.safety": "contacts" });
  const wires = page.getByRole("region", { name: "Wires" });
  await expect(wires).toContainText("Stop: ");
  const list = await wires
    .locator("tr[data-wire]")
    .evaluateAll((l) =>
      l.map((e) => ({ id: e.getAttribute("data-wire")!, to: e.children[2]!.textContent!, why: e.children[3]!.textContent! })),
    );
  const start1 = list.find((x) => x.to.startsWith("T1:") && x.why.includes("Start"))!;

  // Everything is landed and measured; one wire reads open.
  await wire(page, undefined, { [start1.id]: "OL" });
  const one = [];
  for (const x of list.slice(0, 8)) {
    await page.locator(`[data-ohms="${x.id}"]`).fill("0.3");
    one.push(await drawn(page, browser, () => page.locator(`[data-ohms="${x.id}"]`).press("Enter")));
  }
  report("one wire measured", one);
  const says = page.getByRole("region", { name: "What the readings say" });
  await expect(says).toContainText(`Wire ${start1.id} is open, or not landed.`);
  await expect(says).toContainText("Measure next");
  await expect(says).toContainText("With S1 start worked");
  await expect(rail(page, "Control")).toContainText("barred");
  // The proposed measurement is made: joined, and so it is the neighbour.
  for (let n = 0; n < 6; n++) {
    const pair = page.locator('li[data-check^="control/pair/"]').filter({ hasText: "not done" });
    if ((await pair.count()) === 0) break;
    const key = (await pair.first().getAttribute("data-check"))!;
    await pair
      .first()
      .locator("[data-measure]")
      .fill(key.includes(`${start1.to}~`) || key.includes(`~${start1.to}`) ? "OL" : n === 0 ? "OL" : "0.3");
    await pair.first().locator("[data-measure]").press("Enter");
    await expect(check(page, key)).not.toContainText("not done");
  }
  const again = page.locator(`[data-ohms="${start1.id}"]`);
  await again.fill("0.2");
  await again.press("Enter");

  // Out as a list, and in again: nothing changes. A changed one becomes the drive's own, to be landed anew.
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Connection list (CSV)" }).click();
  expect(
    (await (await page.request.get(p.url + (await page.getByRole("link", { name: "Connection sheet (PDF)" }).getAttribute("href")))).body())
      .subarray(0, 4)
      .toString(),
  ).toBe("%PDF");
  const csv = readFileSync((await (await download).path())!, "utf8");
  const file = (text: string) =>
    page.getByLabel("Take a list in").setInputFiles({ name: "list.csv", mimeType: "text/csv", buffer: Buffer.from(text) });
  await file(csv);
  await expect(page.getByText(`${list.length} as drawn, 0 changed, 0 added.`)).toBeVisible();
  await file(csv.replace(/\r\n$/, "") + "\r\n77,X1:1,H1:x1,blue,0.75 mm²,,horn,,\r\n");
  await expect(page.getByText(`${list.length} as drawn, 0 changed, 1 added.`)).toBeVisible();
  await expect(wires.locator('tr[data-wire="77"]')).toContainText("own");
  await file("a,b\n1,2\n");
  await expect(page.getByText("columns wire, from and to")).toBeVisible();

  // A wire put off with a reason cannot be forgotten.
  await wires.locator('tr[data-wire="77"]').getByRole("button", { name: "later…" }).click();
  await wires.getByLabel("Why wire 77 comes later").fill("the horn comes on Monday");
  await wires.getByRole("button", { name: "Put off" }).click();
  await expect(page.getByRole("region", { name: "Temporary things" })).toContainText("deferred wire");

  await rail(page, "Settings sheet").click();
  await expect(page.locator("tr[data-code='2G']")).toContainText("three-wire");
});

test("Power and Control are legible and by keys, wide and narrow", async ({ page, demo }) => {
  test.setTimeout(120_000);
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  for (const name of ["Power", "Control"]) {
    await rail(page, name).click();
    await expect(page.getByRole("heading", { level: 1, name })).toBeVisible();
    for (const width of [1280, 420]) {
      await page.setViewportSize({ width, height: 800 });
      const found = await axe(page);
      expect(found.violations.map((v) => `${name} at ${width}: ${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);
    }
    await page.setViewportSize({ width: 1280, height: 800 });
  }
  await page.getByRole("button", { name: "What would measuring from end to end not show?" }).click();
  await expect(page.getByText(/mis-landings stay on the same potential/)).toBeVisible();
});

type Trace = {
  name: string;
  ph: string;
  ts: number;
  dur?: number;
  pid: number;
  tid: number;
  args: { data?: { requestId?: string; url?: string } };
};

/**
 * From the list's last byte to the end of the next frame, ms: drawing, what the page's thread worked; wall, with the wait for that frame.
 */
async function drawn(page: Page, browser: Browser, act: () => Promise<void>) {
  await browser.startTracing(page, { categories: ["devtools.timeline", "disabled-by-default-devtools.timeline"] });
  await act();
  // The page has nothing more to do, and what it did is on the screen: two frames after it is idle.
  await page.evaluate(
    () => new Promise<void>((done) => requestIdleCallback(() => requestAnimationFrame(() => requestAnimationFrame(() => done())))),
  );
  await page.waitForTimeout(400);
  const events = (JSON.parse((await browser.stopTracing()).toString()) as { traceEvents: Trace[] }).traceEvents.sort((a, b) => a.ts - b.ts);
  const asked = events.find((e) => e.name === "ResourceSendRequest" && e.args.data!.url!.endsWith("/wiring"))!;
  const end = events.find((e) => e.name === "ResourceFinish" && e.args.data!.requestId === asked.args.data!.requestId)!;
  const tasks = events.filter(
    (e) => e.name === "RunTask" && e.pid === end.pid && e.tid === end.tid && e.ph === "X" && e.ts + e.dur! > end.ts,
  );
  const paints = events.filter((e) => e.name === "Layerize" && e.pid === end.pid && e.tid === end.tid && e.ts > end.ts);
  const shows = (t: Trace) => paints.some((p) => p.ts >= t.ts && p.ts <= t.ts + t.dur!);
  // The list is put on the page by the longest task of script that follows its answer; the frame after that one shows it.
  const script = tasks.filter((t) => !shows(t) && t.ts < end.ts + 100_000).reduce((a, b) => (b.dur! > a.dur! ? b : a));
  const frame = tasks.find((t) => t.ts > script.ts && shows(t)) ?? tasks.find(shows)!; // or the script's own task has painted it
  const drawing = tasks.filter((t) => t.ts <= frame.ts).reduce((sum, t) => sum + t.dur! - Math.max(0, end.ts - t.ts), 0);
  return { drawing: drawing / 1000, wall: (frame.ts + frame.dur! - end.ts) / 1000 };
}

/** Prints the medians of several drawings. */
function report(what: string, all: { drawing: number; wall: number }[]) {
  const median = (of: (d: { drawing: number; wall: number }) => number) =>
    all
      .map(of)
      .sort((a, b) => a - b)
      [all.length >> 1]!.toFixed(0);
  expect(all.every((d) => d.drawing > 0)).toBe(true);
  console.log(
    `${what}, from the answer's last byte: ${median((d) => d.drawing)} ms of drawing, painted after ${median((d) => d.wall)} ms with the wait for a frame (medians of ${all.length})`,
  );
}

test("from the list's answer to its paint, reported", async ({ page, demo, browser }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Control").click();
  await expect(page.getByRole("region", { name: "Wires", exact: true })).toBeVisible();
  const more = [];
  for (let n = 0; n < 10; n++) {
    const before = await page.locator("tr[data-wire]").count();
    more.push(await drawn(page, browser, () => field(page, "wiring.reset").click()));
    await expect(page.locator("tr[data-wire]")).not.toHaveCount(before);
  }
  report("a function more or less", more);
  const anew = [];
  for (let n = 0; n < 6; n++)
    anew.push(await drawn(page, browser, async () => void (await field(page, "wiring.code").selectOption(n % 2 ? "iec" : "nfpa"))));
  report("every wire anew", anew);
});
