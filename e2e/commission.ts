import { join } from "node:path";
import { writeFileSync } from "node:fs";
import type { Locator, Page } from "@playwright/test";
import { expect, field, rail, saved } from "./tingate";

const dot = Buffer.from("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGPwBQAAQABAMT4f2wAAAABJRU5ErkJggg==", "base64");

/** How a control is worked: by mouse, or by focus and keys alone. */
export type Hand = (control: Locator) => Promise<void>;
export const mouse: Hand = (c) => c.click();
export const keys: Hand = async (c) => {
  await c.focus();
  await c.press("Enter");
};

const waits = /: (not done|look again)/;

export const check = (page: Page, key: string) => page.locator(`li[data-check="${key}"]`);

/** Names the mains that feeds a drive made by hand, and what opens it. */
export async function nameSource(page: Page) {
  await rail(page, "Match").click();
  const open = page.getByRole("button", { name: "change", exact: true });
  if ((await open.count()) > 0 && (await page.getByLabel("Name of another source").count()) === 0) await open.click();
  await page.getByLabel("Name of another source").fill("Panel P1");
  await page.getByRole("button", { name: "Add", exact: true }).click();
  if ((await page.getByRole("button", { name: "close", exact: true }).count()) === 0)
    await page.getByRole("button", { name: "change", exact: true }).click();
  const source = page.getByRole("group", { name: "Panel P1" });
  for (const [label, text] of [
    ["Volts", "400"],
    ["Hz", "50"],
    ["Short-circuit current at the drive, kA", "6"],
    ["Opened by", "Q1"],
    ["Where that stands", "panel P1"],
  ] as const) {
    await source.getByLabel(label, { exact: true }).fill(text);
    await source.getByLabel(label, { exact: true }).press("Enter");
  }
  await source.getByLabel("Phases").selectOption("3");
  await source.getByLabel("Earthing").selectOption("tn");
  await expect(source.getByLabel("Earthing")).toHaveValue("tn");
}

/** What a machine of 1455 r/min is to do, typed at gates Span and Signal; more stands in place of what is usual. */
export async function plan(page: Page, more: Record<string, string> = {}) {
  await rail(page, "Span").click();
  for (const [path, text] of Object.entries({
    lowest_speed: "360",
    highest_speed: "1455",
    rise: "8 s",
    fall: "10 s",
    current_limit: "150 %",
    load_torque: "100",
    ...more,
  }))
    await field(page, `intent.${path}`).fill(text);
  for (const [path, value] of [
    ["stop_mode", "ramp"],
    ["direction", "forward"],
    ["load", "constant"],
    ["control", "volts-per-hertz"],
    ["overload_class", "10"],
  ] as const)
    await field(page, `intent.${path}`).selectOption(value);
  await saved(page);
  await expect(page.getByRole("complementary")).toContainText("8.3 s");
  await rail(page, "Signal").click();
  await field(page, "intent.command_source").selectOption("terminals");
  await field(page, "intent.speed_source").selectOption("keypad");
  await saved(page);
}

/** What gate Match needs to know. */
export async function state(page: Page, ordered: string) {
  await rail(page, "Match").click();
  await field(page, "site.ordered").fill(ordered);
  for (const [path, text] of [
    ["rating.serial", "T0099001"],
    ["motor.serial", "2299-0001"],
  ] as const)
    if ((await field(page, path).inputValue()) === "") await field(page, path).fill(text);
  for (const [path, text] of [
    ["site.altitude", "40"],
    ["site.ambient", "35"],
    ["rating.short_circuit", "10"],
  ] as const)
    await field(page, path).fill(text);
  for (const [path, choice] of [
    ["rating.duty", "heavy"],
    ["site.input_phases", "3"],
    ["site.filter_links", "in"],
    ["site.choke", "line"],
    ["site.enclosure", "filtered"],
    ["site.mounting", "upright"],
    ["site.motor_fit", "inverter-duty"],
    ["motor.cooling", "forced"],
  ] as const)
    await field(page, path).selectOption(choice);
  await saved(page);
}

/**
 * Whoever works in this window takes the dangers of the drive that is open by name: work at the equipment is refused before. "from Match to
 * Wake" presses it.
 */
export async function takeDangers(page: Page) {
  await page.evaluate(async () => {
    const drive = location.pathname.split("/")[2]!;
    const me = localStorage.getItem("tingate.person")!;
    const headers = {
      "X-Tingate-Person": me,
      "X-Tingate-Device": localStorage.getItem("tingate.device")!,
      "Content-Type": "application/json",
    };
    const v = await (await fetch(`/api/drives/${drive}`, { headers })).json();
    if (v.state.dangers.length === 0 || v.state.dangers_by.includes(me)) return;
    const id = "0199" + crypto.randomUUID().slice(4, 14) + "7" + crypto.randomUUID().slice(15);
    const res = await fetch(`/api/drives/${drive}/answers`, {
      method: "POST",
      headers,
      body: JSON.stringify({ id, key: "dead/dangers/taken", value: "confirmed" }),
    });
    if (!res.ok) throw new Error(await res.text());
  });
}

/** Passes the gate that is open; what is in its way is named when it cannot be. */
export async function passGate(page: Page, hand: Hand = mouse) {
  const button = page.getByRole("button", { name: "Pass gate" });
  await expect
    .poll(
      async () =>
        (await button.isEnabled())
          ? ""
          : [
              ...(await page
                .locator("li[data-check]")
                .filter({ hasText: /: (not done|look again|stops)/ })
                .allTextContents()),
              ...(await page.locator("main footer").allTextContents()),
            ].join(" | "),
      { timeout: 20_000 },
    )
    .toBe("");
  await hand(button);
}

/** Answers every check of a gate that waits, each well; values replace an answer by its key. */
export async function answer(page: Page, gate: string, folder: string, hand: Hand = mouse, values: Record<string, string> = {}) {
  if (gate !== "match" && gate !== "dead") await takeDangers(page);
  await expect(page.getByRole("heading", { level: 1, name: new RegExp(`^${gate}$`, "i") })).toBeVisible();
  for (let n = 0; n < 60; n++) {
    const open = page
      .locator("li[data-check]")
      .filter({ hasText: waits })
      .filter({ has: page.locator("[data-answer]") });
    if ((await open.count()) === 0) {
      await page.waitForTimeout(300); // one answer may open another check
      if ((await open.count()) === 0) return;
      continue;
    }
    const key = (await open.first().getAttribute("data-check"))!;
    const li = check(page, key);
    if (gate === "dead" && (key.startsWith("dead/measure/") || key.startsWith("dead/meter/after")))
      await expect(page.getByText("The wait is over: measure")).toBeVisible({ timeout: 30_000 });
    if (key.endsWith("/second/look")) {
      await hand(li.getByRole("button", { name: "waive…" }));
      await li.getByLabel(/Reason to waive/).fill("alone on site");
      await hand(li.getByRole("button", { name: "Waive" }));
      await expect(li).not.toContainText(waits);
      continue;
    }
    const measure = li.locator("[data-measure]");
    if ((await li.locator('input[type="file"]').count()) > 0) {
      const file = join(folder, "label.png");
      writeFileSync(file, dot);
      await li.locator('input[type="file"]').setInputFiles(file);
    } else if ((await measure.count()) > 0) {
      const band = ((await li.textContent()) ?? "").match(
        /(?:(-?\d[\d.]*) to (\d[\d.]*)|below (\d[\d.]*)|above (\d[\d.]*)) (?:V|min|Ω|MΩ|mΩ|N·m|A|mA|mH|µH|°C|r\/min|counts|ms|mm)/,
      );
      const well = band?.[1]
        ? (Number(band[1]) + Number(band[2])) / 2
        : band?.[3]
          ? Math.min(0.4, Number(band[3]) / 2)
          : Number(band?.[4] ?? 0) * 1.5 + 1;
      await measure.fill(values[key] ?? (key === "dead/wait/minutes" ? "5" : String(Math.round(well * 100) / 100)));
      await measure.press("Enter");
    } else if ((await li.getByRole("group").count()) > 0) {
      const options = li.getByRole("group").getByRole("button");
      await hand(values[key] ? options.filter({ hasText: values[key] }) : options.first());
    } else await hand(li.getByRole("button", { name: /^(Confirm|Opened and locked)/ }));
    await expect(li).not.toContainText(waits);
  }
}

/** What gate Power needs to know. */
export async function statePower(page: Page) {
  await rail(page, "Power").click();
  for (const [path, choice] of [
    ["motor.leads", "6"],
    ["motor.marking", "uvw"],
    ["power.code", "iec-b2"],
  ] as const)
    await field(page, path).selectOption(choice);
  for (const [path, text] of [
    ["site.cable", "6"],
    ["power.input", "15.8"],
    ["power.line_area", "2.5"],
    ["power.motor_area", "2.5"],
    ["power.line_length", "12"],
    ["power.protection", "20"],
    ["power.protection_most", "25"],
    ["power.torque", "1.2"],
    ["power.earth_torque", "1.8"],
    ["power.motor_torque", "2.6"],
  ] as const)
    await field(page, path).fill(text);
  await saved(page);
}

/** What gate Control needs to know: one contact, 0 to 10 V, the factory links of torque off. */
export async function stateControl(page: Page, more: Record<string, string> = {}) {
  await rail(page, "Control").click();
  for (const [path, choice] of Object.entries({
    "wiring.command": "two-wire",
    "wiring.reference": "voltage",
    "wiring.safety": "jumper",
    "wiring.logic": "source",
    "wiring.supply": "drive",
    ...more,
  }))
    await field(page, path).selectOption(choice);
  await field(page, "wiring.reset").check();
  await saved(page);
  await expect(page.getByRole("region", { name: "Wires" })).toBeVisible();
}

/** What gate Turn needs to know: uncoupled, seen from the drive end. */
export async function stateTurn(page: Page) {
  await takeDangers(page);
  await rail(page, "Turn").click();
  await field(page, "turn.forward").fill("drum carries to the outlet");
  for (const [path, choice] of [
    ["turn.from", "drive-end"],
    ["turn.sense", "clockwise"],
    ["turn.stands", "uncoupled"],
    ["turn.uncouple", "yes"],
    ["turn.brake", "none"],
  ] as const)
    await field(page, path).selectOption(choice);
  await saved(page);
}

/** What gate Stop needs to know: one of the place's circuits, or a new one with two emergency stops. */
export async function stateStop(page: Page, circuit = "") {
  await takeDangers(page);
  await rail(page, "Stop").click();
  await expect(page.getByRole("heading", { level: 1, name: "Stop" })).toBeVisible();
  if (circuit) await field(page, "stop.circuit").selectOption({ label: circuit });
  else if ((await field(page, "stop.circuit").inputValue()) === "") {
    await page.getByRole("button", { name: "A new circuit" }).click();
    await page.getByRole("button", { name: "Add a device" }).click();
    await expect(page.locator('tr[data-device="S2"]')).toBeVisible();
    for (const [path, text] of [
      ["by", "I. Brekke"],
      ["paper", "SK-120"],
      ["next", "2027-05"],
    ] as const) {
      if (path === "by")
        for (const [p, v] of [
          ["category", "3"],
          ["required", "d"],
          ["reached", "d"],
        ] as const)
          await page.locator(`[data-circuit="${p}"]`).selectOption(v);
      await page.locator(`[data-circuit="${path}"]`).fill(text);
      await page.locator(`[data-circuit="${path}"]`).press("Enter");
      await expect(check(page, "stop/given/stated")).not.toContainText(
        { by: "who is responsible", paper: "their document", next: "date of the next" }[path],
      );
      // The form closes by itself once it is known who is responsible.
      const more = page.getByRole("button", { name: /^What it is built of/ });
      if (path === "by") await more.click();
    }
  }
  for (const [path, choice] of [
    ["stop.still", "no-run"],
    ["stop.as", "coast"],
    ["stop.latched", "no"],
    ["stop.guarding", "locking"],
  ] as const)
    await field(page, path).selectOption(choice);
  for (const [path, text] of [
    ["stop.speed", "1455"],
    ["stop.allowed", "3 s"],
  ] as const)
    await field(page, path).fill(text);
  await saved(page);
  await expect(check(page, "stop/circuit/stated")).toContainText(": holds");
}

export const stopTest = (page: Page, key: string) => page.locator(`li[data-test="${key}"]`);

/**
 * Isolates the drive, proves it dead and brings it back: what moving a wire between two tests of gate Stop asks for. The same acts as on
 * the screens, which other tests press, sent one after the other.
 */
export async function moveWire(page: Page) {
  await page.evaluate(async () => {
    const drive = location.pathname.split("/")[2]!;
    const headers = {
      "X-Tingate-Person": localStorage.getItem("tingate.person")!,
      "X-Tingate-Device": localStorage.getItem("tingate.device")!,
      "Content-Type": "application/json",
    };
    const id = () => "0199" + crypto.randomUUID().slice(4, 14) + "7" + crypto.randomUUID().slice(15);
    const get = async (path: string) => (await fetch(path, { headers })).json();
    const send = async (path: string, body?: unknown) => {
      const res = await fetch(path, { method: "POST", headers, body: JSON.stringify(body ?? {}) });
      if (!res.ok) throw new Error(`${path} ${JSON.stringify(body)}: ${await res.text()}`);
    };
    const view = () => get(`/api/drives/${drive}`);
    type C = { key: string; do?: string; verdict: string; options?: { value: string }[]; low?: number; high?: number; role?: string };
    const open = (v: { state: { gates: { key: string; checks: C[] }[] } }, gate: string, prefix: string) =>
      v.state.gates
        .find((g) => g.key === gate)!
        .checks.find(
          (c) => c.do && c.do !== "lock" && c.key.startsWith(prefix) && (c.verdict === "not-done" || c.verdict === "look-again"),
        );
    const answer = async (c: C) => {
      const value = c.options
        ? c.options[0]!.value
        : c.do === "confirm"
          ? "confirmed"
          : c.key === "dead/wait/minutes"
            ? "5"
            : String(
                c.low !== undefined && c.high !== undefined
                  ? (c.low + c.high) / 2
                  : c.high !== undefined
                    ? Math.min(0.4, c.high / 2)
                    : c.low! * 1.5 + 1,
              );
      await send(`/api/drives/${drive}/answers`, { id: id(), key: c.key, value, with: c.role ? "M3, auto AC+DC" : undefined });
    };
    let v = await view();
    const place = v.drive.place;
    const points = [...new Set(v.state.sources.map((s: { point: string }) => s.point))];
    for (const supply of points)
      await send(`/api/places/${place}/locks`, { id: id(), lock: { supply, act: "on", owner: headers["X-Tingate-Person"] } });
    for (let n = 0; n < 300; n++) {
      v = await view();
      const c = open(v, "dead", "dead/");
      if (!c) break;
      if (!v.state.wait.over && /^dead\/(measure|meter\/after)/.test(c.key)) await new Promise((done) => setTimeout(done, 200));
      else await answer(c);
    }
    await send(`/api/drives/${drive}/dead`);
    for (let c = open(await view(), "wake", "wake/before/"); c; c = open(await view(), "wake", "wake/before/")) await answer(c);
    for (const supply of points)
      await send(`/api/places/${place}/locks`, { id: id(), lock: { supply, act: "off", owner: headers["X-Tingate-Person"] } });
    for (const s of v.state.sources)
      await send(`/api/places/${place}/energy`, {
        id: id(),
        energy: { supply: s.id, state: "live", drive, told: "TK", volts: [String(parseFloat(s.volts) || 400)] },
      });
    for (let c = open(await view(), "wake", "wake/line/"); c; c = open(await view(), "wake", "wake/line/")) await answer(c);
  });
}

/** Every test of the table as it must, one after the other; the wires of those that have one lifted are moved dead. */
export async function asItMust(page: Page) {
  for (;;) {
    const open = page.locator('li[data-test][data-verdict="not-done"]');
    if ((await open.count()) === 0) return;
    const key = (await open.first().getAttribute("data-test"))!;
    if ((await stopTest(page, key).getByRole("button", { name: "Everything as it must" }).count()) === 0)
      await stopTest(page, key).locator("button[aria-expanded]").first().click();
    if (await stopTest(page, key).getByText("Its wire is moved dead").isVisible()) {
      await moveWire(page);
      await expect(stopTest(page, key).getByText("Its wire is moved dead")).toHaveCount(0);
    }
    await stopTest(page, key).getByRole("button", { name: "Everything as it must" }).click();
    await expect(stopTest(page, key)).toContainText("holds");
    // It makes way for the next by itself, once its answer is there.
    await expect(stopTest(page, key).locator("button[aria-expanded]").first()).toHaveAttribute("aria-expanded", "false");
  }
}

/** Gate Stop from its circuit to the signed end. */
export async function passStop(page: Page, folder: string, circuit = "") {
  await stateStop(page, circuit);
  await answer(page, "stop", folder);
  await asItMust(page);
  await answer(page, "stop", folder);
  await passGate(page);
  await expect(rail(page, "Stop")).toContainText("passed");
}

/** Turned forward at once, and tuned as the machine permits. */
export async function turnAndTune(page: Page, folder: string) {
  await stateTurn(page);
  for (const gate of ["turn", "tune"]) {
    await rail(page, gate === "turn" ? "Turn" : "Tune").click();
    await answer(page, gate, folder);
    await passGate(page);
    await expect(page.getByRole("button", { name: "Passed", exact: true })).toBeVisible();
  }
}

/** Lands every wire and measures it; readings replace a wire's by its number. */
export async function wire(page: Page, hand: Hand = mouse, readings: Record<string, string> = {}) {
  await expect(page.locator('[data-list="wiring"]')).toHaveAttribute("aria-busy", "false"); // the list of what was chosen last
  const rows = page.locator("tr[data-wire]");
  const ids = await rows.evaluateAll((l) => l.map((e) => e.getAttribute("data-wire")!));
  for (const id of ids) {
    const row = page.locator(`tr[data-wire="${id}"]`);
    await hand(row.getByRole("button", { name: `Landed at both ends: wire ${id}` }));
    await expect(row).toContainText("landed");
    const ohms = row.locator(`[data-ohms="${id}"]`);
    await expect(ohms).toBeEnabled();
    await ohms.fill(readings[id] ?? "0.2");
    await ohms.press("Enter");
    await expect(row).toContainText(readings[id] ? "stops" : "holds");
  }
}

/** Mounted, linked, wired, measured, while it is dead. */
export async function powerAndControl(page: Page, folder: string, hand: Hand = mouse) {
  await statePower(page);
  await answer(page, "power", folder, hand);
  await passGate(page, hand);
  await expect(rail(page, "Power")).toContainText("passed");
  await stateControl(page);
  await wire(page, hand);
  await answer(page, "control", folder, hand);
  await passGate(page, hand);
  await expect(rail(page, "Control")).toContainText("passed");
}

/** Takes a meter in hand: one of the place's, or a new one that finds out by itself what it measures. */
export async function inHand(page: Page, number: string, measures = "automatic") {
  const meter = page.getByLabel("Meter", { exact: true });
  await expect(meter).toBeVisible(); // the gate's screen may not be drawn yet, and a list that is not there has no options
  const there = (await meter.locator("option").allTextContents()).find((t) => t.startsWith(number));
  if (there) await meter.selectOption({ label: there });
  else {
    await meter.selectOption({ label: "another…" });
    const dialog = page.getByRole("dialog");
    await dialog.getByLabel("Number on it").fill(number);
    await dialog.getByLabel("Voltage it measures").selectOption(measures);
    await dialog.getByLabel("Number on it").press("Control+Enter");
  }
  await expect(meter.locator("option:checked")).toContainText(number);
}

/** Isolates, proves dead, passes the gate, wires, and switches on again with the other told. */
export async function dead(page: Page, folder: string, hand: Hand = mouse) {
  await rail(page, "Dead").click();
  await inHand(page, "M3");
  await answer(page, "dead", folder, hand);
  await hand(page.getByRole("button", { name: "Record DEAD" }));
  await expect(page.getByRole("region", { name: "Energy" })).toContainText("DEAD, proved");
  await passGate(page, hand);
  await expect(rail(page, "Dead")).toContainText("passed");
  await powerAndControl(page, folder, hand);
  await rail(page, "Wake").click();
  await expect(check(page, "wake/before/people")).toBeVisible(); // and whatever covers its frame has
  const before = await page.locator('[data-check^="wake/before/"]').evaluateAll((l) => l.map((x) => x.getAttribute("data-check")!));
  for (const key of before) {
    await hand(check(page, key).getByRole("button", { name: /^Confirm/ }));
    await expect(check(page, key)).not.toContainText(waits);
  }
  await rail(page, "Dead").click();
  await expect(page.getByRole("heading", { name: "Dead", level: 1 })).toBeVisible();
  await expect(page.getByRole("button", { name: "take off" }).first()).toBeVisible();
  for (;;) {
    const off = page.getByRole("button", { name: "take off" });
    const n = await off.count();
    if (n === 0) break;
    await hand(off.first());
    await expect(off).toHaveCount(n - 1);
  }
  await switchOn(page);
}

/** Records every source of the drive live, with who was told. */
export async function switchOn(page: Page) {
  const band = page.getByRole("region", { name: "Energy" });
  for (let n = 0; n < 6; n++) {
    await band.getByRole("button", { name: "Record…" }).click();
    const dialog = page.getByRole("dialog");
    const supply = dialog.getByLabel("Supply that feeds this drive");
    const options = await supply.locator("option").evaluateAll((l) => l.map((o) => (o as HTMLOptionElement).value).filter(Boolean));
    if (n >= options.length) {
      await page.keyboard.press("Escape");
      break;
    }
    await supply.selectOption(options[n]!);
    const told = dialog.getByLabel(/who was told/);
    if ((await told.count()) > 0) await told.fill("TK");
    const named = await supply.locator("option:checked").textContent();
    await dialog.getByLabel("L1–L2").fill(/230 V/.test(named ?? "") ? "231" : "400"); // near what it is: anything else is refused
    await dialog.getByRole("button", { name: "It is live" }).click();
    await expect(page.getByRole("dialog")).toHaveCount(0);
  }
  await expect(band).toContainText("LIVE");
}
