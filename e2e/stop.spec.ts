import { readFileSync } from "node:fs";
import { answer, asItMust, check, stateStop, stopTest } from "./commission";
import type { Page } from "@playwright/test";
import { axe, expect, openAs, openDrive, rail, test } from "./tingate";

const suspects = (page: Page) => page.getByRole("region", { name: "Where it can be" });

/** Opens a test and records what parts showed otherwise at a step, as a person presses it. */
async function otherwise(page: Page, key: string, step: number, parts: string[], drive?: string) {
  const t = stopTest(page, key);
  if ((await t.locator("li[data-step]").count()) === 0) await t.locator("button[aria-expanded]").first().click();
  const li = t.locator(`li[data-step="${step}"]`);
  for (const part of parts) await li.getByRole("button", { name: new RegExp(`^${part} showed`) }).click();
  if (drive) await li.getByRole("combobox").selectOption(drive);
  await t.getByRole("button", { name: "Record what was otherwise" }).click();
  await expect(t).toContainText("fails");
}

async function mustAt(page: Page, key: string) {
  const t = stopTest(page, key);
  if ((await t.locator("li[data-step]").count()) === 0) await t.locator("button[aria-expanded]").first().click();
  const anew = t.getByRole("button", { name: "Test it anew, nothing marked" });
  if ((await anew.count()) > 0) await anew.click(); // it is not pressed beside a marked difference
  await t.getByRole("button", { name: "Everything as it must" }).click();
  await expect(t).toContainText("holds");
  await expect(t.locator("button[aria-expanded]").first()).toHaveAttribute("aria-expanded", "false");
}

test("a right circuit passes, worked in two windows, and its record is printed to be signed", async ({ page, demo, folder, context }) => {
  test.setTimeout(180_000);
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await stateStop(page, "Drying hall, line stop");

  // Tried out on the drawing: the guard takes torque off, the reset brings it back. Nothing real is commanded.
  const circuit = page.getByRole("region", { name: "Circuit", exact: true });
  await circuit.getByRole("button", { name: "Over time" }).click();
  await circuit.getByRole("group", { name: "Try it" }).getByRole("button", { name: "S3" }).click();
  await expect(circuit.getByRole("img", { name: /T1|DD-02/ }).last()).toHaveAttribute("aria-label", /torque-off from 3\.\d s/);

  // Live work: refused while nobody has recorded the supply live.
  await answer(page, "stop", folder);
  const second = await context.newPage();
  await second.goto(page.url());
  await expect(stopTest(second, "both/S1")).toContainText("open");
  await mustAt(page, "both/S1");
  await expect(stopTest(second, "both/S1")).toContainText("holds");
  await mustAt(second, "both/S2");
  await expect(stopTest(page, "both/S2")).toContainText("holds");
  await second.close();
  await asItMust(page);
  await answer(page, "stop", folder);
  await page.getByRole("button", { name: "Pass gate" }).click();
  await expect(rail(page, "Stop")).toContainText("passed");
  const [d] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "Record to be signed (PDF)" }).click()]);
  expect(
    readFileSync((await d.path())!)
      .subarray(0, 4)
      .toString(),
  ).toBe("%PDF");

  // Something is changed in the circuit: every test is asked for again.
  await page.getByRole("button", { name: /^What it is built of/ }).click();
  await page.locator('[data-circuit="lamps"]').selectOption("three");
  await expect(rail(page, "Stop")).toContainText("look again");
  await expect(stopTest(page, "both/S1")).toContainText("again");
});

test("a bridged channel is found in three measurements", async ({ page, demo }) => {
  test.setTimeout(120_000);
  await openAs(page, demo.url);
  await openDrive(page, "SP-03"); // in the demo a test has failed there: S2 opens one channel only
  await rail(page, "Stop").click();
  await expect(rail(page, "Stop")).toContainText("barred");
  await expect(suspects(page)).toContainText("single faults are out");
  // The machine's second contact on the platform is bridged. What a meter shows there, by the live measurement that is proposed:
  const id = page.url().match(/drives\/([^/]+)/)![1];
  type View = {
    hash: string;
    volts_key?: string;
    diagnosis?: {
      classes: { texts: string[] }[];
      measure?: { test: string; step: number; at: string; expected_v: Record<string, number> };
    };
  };
  const look = async () => (await (await page.request.get(`${demo.url}/api/drives/${id}/stop`)).json()) as View;
  let n = 0;
  for (; n < 6; n++) {
    const v = await look();
    const m = v.diagnosis?.measure;
    if (!m || !v.volts_key) break;
    const expected = Object.entries(m.expected_v).find(([text]) => text.includes("Contact 2 of S2"));
    expect(expected).toBeTruthy();
    const input = suspects(page).locator(`[data-measure="${v.volts_key}"]`);
    await input.fill(String(expected![1]));
    await input.press("Enter");
    await expect(async () => expect((await look()).volts_key).not.toBe(v.volts_key)).toPass();
  }
  expect(n).toBeLessThanOrEqual(3);
  await expect(suspects(page)).toContainText("Contact 2 of S2 platform does not move with it");
});

test("a reset wire on a wrong terminal is found, mended, and the whole is tested again", async ({ page, demo, folder }) => {
  test.setTimeout(120_000);
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await stateStop(page, "Drying hall, line stop");
  await answer(page, "stop", folder);
  // The wire from the reset button sits on the terminal beside its own: the relay never starts, at the second step of the first test.
  await otherwise(page, "both/S1", 1, ["K1", "H1", "H2"], "torque-off");
  await expect(suspects(page)).toContainText("single faults are out");
  const id = page.url().match(/drives\/([^/]+)/)![1];
  const v = (await (await page.request.get(`${demo.url}/api/drives/${id}/stop`)).json()) as {
    diagnosis: { classes: { texts: string[] }[] };
  };
  expect(v.diagnosis.classes.flatMap((c) => c.texts).some((t) => /Wire \d+ is on K1:(13|S22) instead of K1:S34/.test(t))).toBe(true);
  // Dead, the button pressed, a meter over its path: the contact is sound, the wire does not reach its terminal.
  await expect(suspects(page).locator('[data-probe="Ω"]')).toBeVisible();
  // Two faults at once can be looked for, and the search can be ended.
  await suspects(page).getByRole("button", { name: "Look for two faults at once" }).click();
  await expect(suspects(page).getByText(/tried/)).toBeVisible({ timeout: 60_000 });
  const mend = check(page, "stop/mended/what");
  await expect(mend).toContainText(": not done");
  // What was mended wants its words; then a fresh round begins.
  await mend.getByRole("button", { name: "a wire" }).click();
  await mend.getByRole("textbox", { name: /^Reason/ }).fill("wire of the reset sat beside its terminal: K1:S34 to S3:14");
  await mend.getByRole("button", { name: "Keep" }).click();
  await expect(mend).toContainText(": holds");
  await expect(mend).toContainText("K1:S34 to S3:14");
  await expect(stopTest(page, "both/S1")).toContainText("again");
  await expect(suspects(page)).toHaveCount(0);
  await mustAt(page, "both/S1");
  await expect(stopTest(page, "both/S1")).toContainText("holds");
});

test("a hanging load brings its own checks; the smallest set asks for less; legible and by keys, wide and narrow", async ({
  page,
  demo,
}) => {
  test.setTimeout(150_000);
  await openAs(page, demo.url);
  await openDrive(page, "WN-01");
  await rail(page, "Stop").click();
  for (const key of ["stop/before/landed", "stop/before/brake", "stop/measured/drop", "stop/measured/slip"])
    await expect(check(page, key)).toBeVisible();
  await check(page, "stop/measured/drop").locator("[data-measure]").fill("40");
  await check(page, "stop/measured/drop").locator("[data-measure]").press("Enter");
  await expect(check(page, "stop/measured/drop")).toContainText("40 mm; wanted 0 to 15 mm");
  await expect(rail(page, "Stop")).toContainText("barred");
  await check(page, "stop/measured/drop").locator("[data-measure]").fill("8");
  await check(page, "stop/measured/drop").locator("[data-measure]").press("Enter");
  await expect(rail(page, "Stop")).toContainText("passed");

  await page.goto(demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Stop").click();
  const tests = page.getByRole("region", { name: "Tests", exact: true });
  await expect(stopTest(page, "both/S1")).toBeVisible();
  const all = await tests.locator("li[data-test]").count();
  await check(page, "stop/set/chosen").getByRole("button", { name: "the smallest set" }).click();
  await expect(tests.getByRole("button", { name: /^Show \d+ more/ })).toBeVisible({ timeout: 15_000 });
  expect(await tests.locator("li[data-test]").count()).toBeLessThan(all);
  await stopTest(page, "both/S2").locator("button[aria-expanded]").first().click();
  for (const width of [1280, 420]) {
    await page.setViewportSize({ width, height: 800 });
    const found = await axe(page);
    expect(found.violations.map((v) => `Stop at ${width}: ${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);
  }
  await page.setViewportSize({ width: 1280, height: 800 });
});

test("a circuit that no drive uses has a page of its own: drawn, pulses seen, tested, a fault looked for", async ({
  page,
  demo,
  folder,
}) => {
  test.setTimeout(120_000);
  await openAs(page, demo.url);
  await page.getByRole("button", { name: "New drive" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("A stop circuit by itself").check();
  await dialog.getByLabel("Tag").fill("Gate line 2");
  await dialog.getByRole("button", { name: "Begin with the circuit" }).click();
  await expect(page.getByRole("navigation", { name: "Gates" }).getByRole("link")).toHaveCount(2); // Stop, and its history
  await page.getByRole("button", { name: "A new circuit" }).click();
  await expect(page.locator('[data-circuit="contactors"]')).toBeVisible();
  await page.locator('[data-circuit="contactors"]').selectOption("2");
  await page.locator('[data-circuit="out_pulse"]').fill("0.03 s");
  await page.locator('[data-circuit="out_pulse"]').press("Enter");
  const circuit = page.getByRole("region", { name: "Circuit", exact: true });
  await circuit.getByRole("button", { name: "Test pulses" }).click();
  await expect(circuit.getByRole("group", { name: "Test pulses" })).toContainText("Q1 Contactor goes from on to off by a test pulse");
  await page.locator('[data-circuit="out_pulse"]').fill("0.002 s");
  await page.locator('[data-circuit="out_pulse"]').press("Enter");
  await expect(circuit.getByRole("group", { name: "Test pulses" })).toContainText("Every filter passes them over");
  await answer(page, "stop", folder);
  const t = stopTest(page, "both/S1");
  await t.locator("button[aria-expanded]").first().click();
  await expect(t).not.toContainText("run command");
  await t
    .locator('li[data-step="2"]')
    .getByRole("button", { name: /^Q1 showed/ })
    .click(); // pressed, and Q1 stays in
  await t.getByRole("button", { name: "Record what was otherwise" }).click();
  await expect(suspects(page)).toContainText("welded");
});
