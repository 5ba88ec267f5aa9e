import { readFileSync, statSync } from "node:fs";
import { join } from "node:path";
import { expect, field, openAs, openDrive, rail, reading, saved, test, type Program } from "./tingate";
import { answer, check, dead, nameSource, passStop, plan, state, turnAndTune } from "./commission";
import type { Page } from "@playwright/test";

/** From a misread digit to the bundle in an empty data folder, on whichever drive is open at gate Plate. */
async function wholeWay(page: Page, start: (...a: string[]) => Promise<Program>, folder: string) {
  await field(page, "rating.type").fill("TN4-016-F2K");
  await state(page, "TN4-016");
  await rail(page, "Plate").click();

  // A misread digit, what is probably meant, and the correction.
  const findings = page.getByRole("complementary");
  await expect(findings.getByText("Power and current do not fit")).toBeVisible();
  await findings
    .getByRole("button", { name: /Correct current to 15\.5 A/ })
    .first()
    .click();
  await expect(findings.getByText("Power and current do not fit")).toHaveCount(0);
  await findings.getByRole("button", { name: "Confirm 4 poles" }).click();
  await expect(findings.getByRole("button", { name: "Confirm 4 poles" })).toHaveCount(0);

  await rail(page, "Match").click();
  await answer(page, "match", folder);
  await page.getByRole("button", { name: "Pass gate" }).click();
  await dead(page, folder);
  await rail(page, "Plate").click();

  // The sheet in the drive's own language, read from the drive, written and read back.
  await rail(page, "Settings sheet").click();
  await page.getByRole("button", { name: "Read and save as found" }).click();
  await expect(page.getByText(/settings read\. Saved as found\./)).toBeVisible();
  await reading(page, "4D").focus();
  await expect(page.getByRole("complementary").getByText("delta 230 V row", { exact: false }).first()).toBeVisible();

  // First power; the return to delivery state says what it makes void, and does.
  await rail(page, "Wake").click();
  await expect(check(page, "wake/reset/delivery")).toContainText(/It makes void: \d+ readings/);
  await answer(page, "wake", folder);
  await page.getByRole("button", { name: "Pass gate" }).click();
  await rail(page, "Settings sheet").click();
  await expect(reading(page, "4D")).toHaveValue("");
  await reading(page, "4D").focus();
  const write = page.getByRole("button", { name: "Write and read back" });
  await write.click();
  await expect(reading(page, "4D")).toHaveValue("15.5");
  await expect(page.locator("tr[data-code='4D']")).toContainText("holds");

  // A setting that could start the motor is refused: the torque-off channels are closed.
  await reading(page, "8A").focus();
  await expect(page.getByRole("heading", { name: "8A Run command from" })).toBeVisible();
  await write.click();
  await page.getByRole("checkbox").check();
  await page.getByRole("button", { name: /^Write .* to 8A$/ }).click();
  await expect(page.getByRole("alert")).toContainText("open both torque-off channels");
  await page.getByRole("alert").getByRole("button", { name: "Close" }).click();

  // The others are typed as the keypad shows them; one is mistyped, explained, and corrected.
  const codes = await page.locator("[data-read]").evaluateAll((l) => l.map((e) => e.getAttribute("data-read")!));
  for (const code of codes) {
    const row = page.locator(`tr[data-code="${code}"]`);
    if ((await row.getByText("holds", { exact: true }).count()) > 0) continue;
    const want = (await row.locator("td").nth(2).textContent())!;
    await reading(page, code).fill(code === "6K" ? "69" : want);
    await reading(page, code).press("Enter");
    if (code !== "6K") await expect(row).toContainText("holds");
  }
  await reading(page, "6K").focus();
  await expect(page.getByRole("complementary")).toContainText("6K reads 69 %");
  await expect(page.getByRole("complementary")).toContainText("The overload would trip a sound motor");
  await reading(page, "6K").fill("=");
  await expect(page.getByRole("alert")).toContainText("type what the keypad shows");
  await page.getByRole("alert").getByRole("button", { name: "Close" }).click();
  await reading(page, "6K").fill("96");
  await reading(page, "6K").press("Enter");
  await expect(page.locator("tr[data-code='6K']")).toContainText("holds");
  await expect(page.getByRole("progressbar")).toHaveAttribute("aria-valuenow", String(codes.length));

  // Gates, as left, and the record.
  for (const gate of ["Plate", "Span", "Signal"]) {
    await rail(page, gate).click();
    if (gate === "Signal") await check(page, "signal/auto/left").getByRole("button", { name: "Confirm" }).click();
    await page.getByRole("button", { name: "Pass gate" }).click();
    await expect(page.getByRole("button", { name: "Passed", exact: true })).toBeVisible();
    if (gate === "Plate") {
      await passStop(page, folder);
      await turnAndTune(page, folder);
    }
  }
  await rail(page, "Keep").click();
  await page.getByRole("button", { name: "Save as left" }).click();
  await expect(page.getByText(/As left saved and still true/)).toBeVisible();
  await expect(page.getByText(/of 34 differ|of \d+ differ/)).toBeVisible();
  await page.getByRole("button", { name: "Pass gate" }).click();
  await expect(page.getByRole("button", { name: "Passed", exact: true })).toBeVisible();
  // A misread digit again brings the finding back and opens what was passed; undo closes it, and entries stay as they are.
  await rail(page, "Plate").click();
  await page.locator('[data-field$=".current"][data-field^="motor.rows."]').first().fill("16.5");
  await saved(page);
  await expect(findings.getByText("Power and current do not fit")).toBeVisible();
  await expect(rail(page, "Plate")).toContainText(/look again|barred/);
  await page.keyboard.press("Control+z");
  await expect(rail(page, "Plate")).toContainText("passed");
  await rail(page, "Keep").click();
  const files: Record<string, string> = {};
  for (const [name, file] of [
    ["Record (PDF)", "record.pdf"],
    ["Settings (CSV)", "settings.csv"],
    ["Whole drive file (bundle)", "drive.zip"],
  ] as const) {
    const [d] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name }).click()]);
    await d.saveAs((files[file] = join(folder, file)));
  }
  expect(readFileSync(files["record.pdf"]!).subarray(0, 4).toString()).toBe("%PDF");
  expect(statSync(files["record.pdf"]!).size).toBeGreaterThan(10_000);
  const csv = readFileSync(files["settings.csv"]!, "utf8");
  expect(csv).toContain("4D,Page 4 — motor,Motor current,15.5,A");

  const before = await page.evaluate(() =>
    fetch(location.pathname.replace("/drives/", "/api/drives/").replace("/keep", "/sheet.csv")).then((r) => r.text()),
  );

  // Into an empty data folder: the same sheet.
  const other = await start("serve", "--data", join(folder, "other"), "--listen", "127.0.0.1:0");
  await page.goto(other.url);
  await page.locator('input[type="file"]').setInputFiles(files["drive.zip"]!);
  await page.getByRole("dialog").getByRole("button", { name: "RH" }).click();
  await page.getByRole("list", { name: "Drives" }).getByRole("link").first().click();
  await rail(page, "Settings sheet").click();
  await expect(page.getByRole("progressbar")).toHaveAttribute("aria-valuenow", String(codes.length));
  const after = await page.evaluate(() =>
    fetch(location.pathname.replace("/drives/", "/api/drives/").replace("/sheet", "/sheet.csv")).then((r) => r.text()),
  );
  expect(after).toBe(before);
}

test("the whole way on the demo", async ({ page, demo, start, folder }) => {
  test.setTimeout(240_000);
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await wholeWay(page, start, folder);
});

test("the whole way on a drive made by hand in an empty database", async ({ page, empty, start, folder }) => {
  test.setTimeout(240_000);
  const bench = await start("bench", "--dialect", "Tarn", "--listen", "127.0.0.1:0", "--set", "4D=26.8", "--set", "6L=class 20");
  await page.goto(empty.url);
  await page.getByLabel("Place", { exact: true }).fill("Hand-made");
  await page.getByLabel("Your initials").fill("RH");
  await page.getByRole("radio", { name: /^Simulated/ }).check();
  await page.getByRole("button", { name: "Begin" }).click();
  // A new drive by keyboard alone.
  await expect(page.getByText("No drive here yet")).toBeVisible();
  await page.keyboard.press("n");
  await page.keyboard.type("XX-07");
  await page.keyboard.press("Tab");
  await page.keyboard.type("Press");
  await page.keyboard.press("Control+Enter"); // Enter moves; this sends, from any field
  await expect(page.getByRole("heading", { name: "Plate", level: 1 })).toBeVisible();
  await field(page, "rating.dialect").selectOption("Tarn");
  await field(page, "rating.current").fill("16 A");
  await saved(page);
  // The plate with one hand on the number pad: Enter goes to the next.
  const row = page.locator('[data-field^="motor.rows."]');
  await row.nth(0).selectOption("star");
  await row.nth(1).focus();
  for (const text of ["400", "50", "7.5 kW", "16.5", "1455", "0,83"]) {
    await page.keyboard.type(text);
    await page.keyboard.press("Enter");
  }
  await saved(page);
  await page.getByRole("button", { name: "+ another row" }).click();
  await row.nth(7).selectOption("delta");
  await row.nth(8).focus();
  for (const text of ["230", "50", "7.5", "26.8", "1455", "0.83"]) {
    await page.keyboard.type(text);
    await page.keyboard.press("Enter");
  }
  await saved(page);
  await page.getByRole("radio", { name: "Link fitted: 400 V row" }).click();
  await plan(page, { boost: "5 %" });
  await rail(page, "Settings sheet").click();
  await field(page, "link.address").fill(bench.url);
  await field(page, "link.address").blur();
  await saved(page);
  await nameSource(page);
  await rail(page, "Plate").click();
  await wholeWay(page, start, folder);
});
