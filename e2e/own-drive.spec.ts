import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { answer, check, dead, nameSource, passGate, passStop, plan, state, turnAndTune } from "./commission";
import { expect, field, rail, reading, saved, test } from "./tingate";

const example = new URL("../docs/examples/linn/", import.meta.url).pathname;

/** The tables of the manual by their first heading, as a person copies them: rows of cells. */
function tables(): Map<string, string[][]> {
  const out = new Map<string, string[][]>();
  let at: string[][] | null = null;
  for (const line of readFileSync(join(example, "manual.md"), "utf8").split("\n")) {
    if (!line.startsWith("|")) {
      at = null;
      continue;
    }
    const cells = line
      .slice(1, -1)
      .split("|")
      .map((c) => c.trim());
    if (!at) out.set(cells.slice(0, 2).join(" "), (at = []));
    else if (!/^-+$/.test(cells[0]!)) at.push(cells);
  }
  return out;
}

const capital = (t: string) => t.replace(/^./, (c) => c.toUpperCase());

/** What a hand does, counted: a press, a choice, a field typed, a paste. */
class Acts {
  n = 0;
  constructor(private page: Page) {}
  async press(name: string | RegExp) {
    this.n++;
    await this.page.getByRole("button", { name, exact: typeof name === "string" }).click();
  }
  async fill(label: string, text: string) {
    this.n++;
    await this.page.getByLabel(capital(label), { exact: true }).first().fill(text);
  }
  async choose(label: string, value: string) {
    this.n++;
    await this.page
      .getByLabel(new RegExp(`^${capital(label)}`))
      .first()
      .selectOption(value);
  }
  /** Opens a part of the family. */
  async part(key: string) {
    await this.choose("What to change", key);
  }
  /** Pastes cells into the table that is open. */
  async paste(first: string, rows: string[][]) {
    this.n++;
    await this.page.getByLabel(`${first}, row 1`, { exact: true }).evaluate(
      (el, text) => {
        const data = new DataTransfer();
        data.setData("text/plain", text);
        el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
      },
      rows.map((r) => r.join("\t")).join("\n"),
    );
  }
}

/** A family out of the manual and its list, kept. */
async function makeFamily(page: Page, url: string): Promise<number> {
  const manual = tables();
  const rows = (head: string, take?: (r: string[]) => string[]) => {
    const t = manual.get(head);
    if (!t) throw new Error(`the manual has no table ${head}, only ${[...manual.keys()].join("; ")}`);
    return take ? t.map(take) : t;
  };
  const acts = new Acts(page);
  await page.goto(`${url}/families/new`);
  acts.n++;
  await page.getByLabel("Settings list", { exact: true }).setInputFiles(join(example, "settings.xlsx"));
  await acts.press("Look at the 39 settings");
  await acts.fill("Name", "Linn");
  await acts.fill("What is to be known of it", "A wheel and three keys; ramps count to the motor's frequency");
  for (const code of ["3/04", "3/05"]) {
    await acts.press(`Change ${code}`);
    await acts.choose("Counted as", "to-base-frequency"); // chapter 7
  }
  for (const code of ["5/01", "5/02", "5/03", "5/05"]) {
    await acts.press(`Change ${code}`);
    await acts.press("it is right as it stands"); // what each choice stands for
  }
  await acts.part("ratings");
  await acts.paste("type begins", rows("Type Code"));
  await acts.part("terminals");
  await acts.paste(
    "name",
    rows("Terminal Kind", ([name, kind, what, common, setting, delivered, ma]) => [
      name!,
      kind!,
      what!,
      common!,
      setting!,
      delivered!,
      "",
      "",
      ma!,
      what!.startsWith("0 to 10 V") ? "voltage" : "",
    ]),
  );
  await acts.part("keypad");
  for (const [label, text] of [
    ["way to a setting: {group}, {letter}, {code}", "wheel to {group}, press, wheel to {code}, press"],
    ["key that keeps", "press the wheel"],
  ] as const)
    await acts.fill(label, text);
  for (const [label, text] of [
    ["style", "pages"],
    ["kept by", "once"],
    ["digits, by", "turn"],
    ["blinking means", "not-kept"],
    ["stop key in remote", "obeyed"],
  ] as const)
    await acts.choose(label, text);
  await acts.part("keypad.keys");
  for (const [label, text] of [
    ["enter", "wheel"],
    ["back", "Back"],
    ["run", "Go"],
    ["stop", "Stay"],
  ] as const)
    await acts.fill(label, text);
  await acts.part("keypad.home");
  await acts.fill("do", "hold Back for 2 s");
  await acts.fill("shows", "the frequency");
  await acts.part("keypad.lamps");
  await acts.paste("sign", rows("Lamp Means"));
  await acts.part("keypad.words");
  await acts.paste("sign", rows("Shows Means"));
  await acts.part("keypad.run_refused");
  await acts.paste("when", rows("When It shows"));
  await acts.part("faults");
  await acts.paste("code", rows("Code Text"));
  await acts.part("recipes.delivery_reset");
  for (const [label, text] of [
    ["proof", "Fresh"],
    ["cleared by", "press the wheel"],
    ["wipes", "every setting and what was tuned"],
    ["keeps", "hours, the list of faults"],
  ] as const)
    await acts.fill(label, text);
  await acts.part("recipes.delivery_reset.steps");
  await acts.paste("do", [
    ["on page 1 hold Back and the wheel together for 4 s", "Wipe"],
    ["press the wheel", "Fresh"],
  ]);
  await acts.part("recipes.tunes");
  await acts.paste("kind", [
    ["standstill", "2/14", "1", "Go", "30", "Learn", "Done", "0"],
    ["rotating uncoupled", "2/14", "2", "Go", "40", "Learn", "Done", "0", "", "yes"],
  ]);
  await acts.part("recipes.fault_reset");
  await acts.paste("do", [
    ["take the run command away", "the fault"],
    ["press Stay", "Rest"],
  ]);
  await acts.part("recipes.torque_off_reset");
  await acts.paste("do", [
    ["close both channels", "Rest"],
    ["give a fresh run command", "the frequency"],
  ]);
  await acts.part("link");
  await acts.fill("rating", "5003");
  await acts.fill("registers a read", "20");
  await acts.part("link.identity");
  await acts.fill("register", "5001");
  await acts.fill("value", "19534");
  await acts.part("link.status");
  for (const [label, text] of [
    ["register", "5002"],
    ["standstill bit", "0"],
    ["channel a open bit", "1"],
    ["channel b open bit", "2"],
  ] as const)
    await acts.fill(label, text);
  await acts.part("link.forbidden");
  await acts.paste("from", rows("From To"));
  await expect(page.getByText("39 settings, 32 with a role")).toBeVisible();
  await acts.press("Keep this family");
  await expect(page.getByRole("heading", { level: 1, name: "Linn 1" })).toBeVisible();
  return acts.n;
}

test("a family that nobody knew is made from its manual and its list, and a drive of it is brought to Keep", async ({
  page,
  empty,
  start,
  folder,
}) => {
  test.setTimeout(300_000);
  await page.goto(empty.url);
  await page.getByLabel("Place", { exact: true }).fill("Hand-made");
  await page.getByLabel("Your initials").fill("RH");
  await page.getByRole("radio", { name: /^Simulated/ }).check();
  await page.getByRole("button", { name: "Begin" }).click();
  await expect(page.getByText("No drive here yet")).toBeVisible();
  const acts = await makeFamily(page, empty.url);
  expect(acts).toBeLessThanOrEqual(150);
  console.log(`the family took ${acts} acts`);
  const file = join(folder, "linn.yaml");
  writeFileSync(file, await (await page.request.get(`${empty.url}/api/families/Linn/file.yaml`)).text());
  const bench = await start("bench", "--dialect", file, "--size", "LN-4-016", "--listen", "127.0.0.1:0");

  await page.goto(empty.url);
  await page.getByRole("button", { name: "New drive" }).click();
  await page.getByRole("dialog").getByLabel("Tag").fill("LN-01");
  await page.getByRole("dialog").getByLabel("Drive family").selectOption("Linn");
  await page.getByRole("button", { name: "Begin with the plate" }).click();
  await field(page, "rating.type").fill("LN-4-016");
  await field(page, "rating.current").fill("16.5 A");
  const row = page.locator('[data-field^="motor.rows."]');
  await row.nth(0).selectOption("star");
  await row.nth(1).focus();
  for (const text of ["400", "50", "7.5 kW", "15.5", "1455", "0.83"]) {
    await page.keyboard.type(text);
    await page.keyboard.press("Enter");
  }
  await saved(page);
  await plan(page, { lowest_speed: "600", load_torque: "60" });
  await rail(page, "Settings sheet").click();
  await field(page, "link.address").fill(bench.url);
  await field(page, "link.address").blur();
  await saved(page);
  // Its own way of counting: 8 s to 1455 r/min are 8.2 s to 50 Hz idle.
  await expect(page.locator('tr[data-code="3/04"]')).toContainText(/8\.\d s/);
  await nameSource(page);
  await state(page, "LN-4-016");
  await rail(page, "Plate").click();
  await page.getByRole("complementary").getByRole("button", { name: "Confirm 4 poles" }).click();
  await rail(page, "Match").click();
  await answer(page, "match", folder);
  await passGate(page);
  await dead(page, folder);
  await rail(page, "Settings sheet").click();
  await page.getByRole("button", { name: "Read and save as found" }).click();
  await expect(page.getByText(/settings read\. Saved as found\./)).toBeVisible();
  await rail(page, "Wake").click();
  await expect(check(page, "wake/reset/delivery")).toContainText("Fresh");
  await answer(page, "wake", folder);
  await passGate(page);
  await rail(page, "Settings sheet").click();
  await expect(reading(page, "2/02")).toBeVisible();
  const codes = await page.locator("[data-read]").evaluateAll((l) => l.map((e) => e.getAttribute("data-read")!));
  for (const code of codes) {
    const line = page.locator(`tr[data-code="${code}"]`);
    if ((await line.getByText("holds", { exact: true }).count()) > 0) continue;
    await reading(page, code).fill((await line.locator("td").nth(2).textContent())!);
    await reading(page, code).press("Enter");
    await expect(line).toContainText("holds");
  }
  for (const gate of ["Plate", "Span", "Signal"]) {
    await rail(page, gate).click();
    if (gate === "Signal") await check(page, "signal/auto/left").getByRole("button", { name: "Confirm" }).click();
    await passGate(page);
    await expect(page.getByRole("button", { name: "Passed", exact: true })).toBeVisible();
    if (gate === "Plate") {
      await passStop(page, folder);
      await turnAndTune(page, folder);
    }
  }
  await rail(page, "Keep").click();
  await page.getByRole("button", { name: "Save as left" }).click();
  await expect(page.getByText(/As left saved and still true/)).toBeVisible();
  await passGate(page);
  await expect(page.getByRole("button", { name: "Passed", exact: true })).toBeVisible();

  // What the shipped families give, this one gives: it is looked up, key by key, and its faults by their words.
  await page.goto(`${empty.url}/families`);
  await page.getByLabel("Find in all families").fill("F-52");
  await expect(page.getByText("channel B alone").first()).toBeVisible();
  await page.goto(`${empty.url}/families/Linn`);
  for (const [tab, text] of [
    ["Recipes", "on page 1 hold Back and the wheel together"],
    ["Terminals", "reference"],
    ["Faults", "channel A alone"],
    ["Sizes", "LN-4-024"],
  ] as const) {
    await page.getByRole("tab", { name: tab }).click();
    await expect(page.getByText(text).first()).toBeVisible();
  }
});
