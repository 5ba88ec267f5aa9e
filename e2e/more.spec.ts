import { expect, field, openAs, openDrive, rail, reading, saved, test } from "./tingate";

test("a Brae drive: another family's words for the same intent, and its misread value", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "HM-01");
  await rail(page, "Settings sheet").click();
  const row = page.locator("tr[data-code='protect.overload']");
  await expect(row).toContainText("the drive's own current");
  await reading(page, "protect.overload").focus();
  const right = page.getByRole("complementary");
  await expect(right).toContainText("61.0 A is the drive's rated current");
  await expect(right.locator("kbd").first()).toHaveText("Menu");
  await reading(page, "protect.overload").fill("55");
  await page.keyboard.press("Enter");
  await expect(row).toContainText("holds");
  await reading(page, "ramp.down").fill("60");
  await page.keyboard.press("Enter");
  await expect(rail(page, "Span")).toContainText("3/3");
  await rail(page, "Span").click();
  await page.getByRole("button", { name: "Pass gate" }).click();
  await expect(rail(page, "Span")).toContainText("passed");
});

test("a drive moved to the other family keeps its intent", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "BE-01");
  await rail(page, "Plate").click();
  await field(page, "rating.dialect").selectOption("Brae");
  await saved(page);
  await rail(page, "Settings sheet").click();
  await expect(page.locator("tr[data-code='motor.power']")).toContainText("5.36 hp");
  await expect(page.locator("tr[data-code='ramp.up']")).toContainText("6.10 s");
  await page.keyboard.press("Control+z");
  await expect(page.locator("tr[data-code='4A']")).toContainText("4.00 kW");
});

test("a permanent-magnet motor: frequency, poles and speed must agree exactly", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "CV-06");
  await expect(page.getByRole("complementary")).not.toContainText("Slip");
  const speed = page.locator('[data-field^="motor.rows"][data-field$=".speed"]').first();
  await speed.fill("1750");
  await expect(page.getByRole("complementary")).toContainText("Frequency, poles and speed disagree");
  await expect(rail(page, "Plate")).toContainText("barred");
  await page.keyboard.press("Control+z");
  await expect(rail(page, "Plate")).toContainText("passed");
});

test("a figure opens to its formula and inputs", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await page.getByRole("button", { name: /Power in/ }).click();
  const right = page.getByRole("complementary");
  await expect(right).toContainText("√3 × voltage × current × cos φ");
  await expect(right).toContainText("16.5");
});

test("an entry is withdrawn from the history and stays in it", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "BP-02");
  await rail(page, "History").click();
  const rows = page.getByRole("row");
  await expect(rows.nth(1)).toContainText("gate Keep passed");
  await rows.nth(1).getByRole("button", { name: "Withdraw…" }).click();
  await page.keyboard.type("x");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert")).toContainText("why it is taken back"); // what was typed stays
  await page.keyboard.type(" passed by mistake, as left is missing");
  await page.keyboard.press("Enter");
  await expect(rows.nth(1)).toContainText("an entry withdrawn");
  await expect(rows.nth(2)).toContainText("gate Keep passed");
  await expect(rail(page, "Keep")).not.toContainText("passed");
});

test("a check is waived with a reason, and the reason shows", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Signal").click();
  await page.locator('li[data-check="signal/auto/left"]').getByRole("button", { name: "Confirm" }).click();
  // answered before the list of what is open is looked at
  await expect(page.locator('li[data-check="signal/auto/left"]')).toContainText(": holds");
  await page.getByText(/checks still open|check still open/).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("button", { name: "Waive with a reason" }).click();
  await page.keyboard.type("keypad broken, new one ordered");
  await page.keyboard.press("Enter");
  await expect(dialog).toContainText("Waived: keypad broken, new one ordered");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("button", { name: "Pass gate" })).toBeEnabled();
});

test("snapshots are compared, and only what differs is shown", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Keep").click();
  await page.getByRole("button", { name: "Save as planned" }).click();
  await rail(page, "Settings sheet").click();
  await page.getByRole("button", { name: "Read and save as found" }).click();
  await expect(page.getByText(/settings read\. Saved as found\./)).toBeVisible();
  await rail(page, "Keep").click();
  await expect(page.getByText(/of 138 differ/)).toBeVisible();
  const current = page.getByRole("row").filter({ hasText: "Motor current" });
  await expect(current).toContainText("16.5 A");
  await expect(current).toContainText("26.8 A");
  await page.getByRole("button", { name: "Show all" }).click();
  await expect(page.getByRole("row").filter({ hasText: "Motor voltage" }).first()).toBeVisible();
});

test("the sheet prints whole, without the frame", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "HM-01");
  await rail(page, "Settings sheet").click();
  await page.emulateMedia({ media: "print" });
  await expect(page.getByRole("navigation", { name: "Gates" })).toBeHidden();
  await expect(page.getByRole("region", { name: "Energy" })).toBeHidden();
  const pdf = await page.pdf({ format: "A4" });
  expect(pdf.length).toBeGreaterThan(20_000);
  const tall = await page.locator("table.list").evaluate((t) => t.parentElement!.scrollHeight - t.parentElement!.clientHeight);
  expect(tall).toBeLessThanOrEqual(1);
});

test("nobody is chosen: entries are refused until somebody says who works", async ({ page, demo }) => {
  await page.goto(demo.url);
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("Who works?");
  await page.keyboard.press("Escape");
  await expect(dialog).toContainText("Who works?");
  await dialog.getByLabel("Somebody else: initials").fill("MO");
  await dialog.getByLabel("Trade").selectOption("fitter");
  await dialog.getByRole("button", { name: "That is me" }).click();
  await expect(page.getByRole("button", { name: "MO fitter" })).toBeVisible();
  await page.reload();
  await expect(page.getByRole("button", { name: "MO fitter" })).toBeVisible();
});

test("a drive that goes away while it is read is told, and nothing half is kept silently", async ({ page, empty, start }) => {
  const bench = await start("bench", "--dialect", "Tarn", "--listen", "127.0.0.1:0");
  await page.goto(empty.url);
  await page.getByLabel("Place", { exact: true }).fill("Gone");
  await page.getByLabel("Your initials").fill("RH");
  await page.getByRole("radio", { name: /^Simulated/ }).check();
  await page.getByRole("button", { name: "Begin" }).click();
  await page.getByRole("button", { name: "New drive" }).click();
  await page.getByRole("dialog").getByLabel("Tag").fill("G-1");
  await page.getByRole("dialog").getByLabel("Drive family").selectOption("Tarn");
  await page.getByRole("button", { name: "Begin with the plate" }).click();
  await rail(page, "Settings sheet").click();
  await expect(page.getByRole("button", { name: "Read from drive" })).toBeDisabled();
  await field(page, "link.address").fill(bench.url);
  await field(page, "link.address").blur();
  await saved(page);
  await page.getByRole("button", { name: "Read from drive" }).click();
  await expect(page.getByText("138 settings read.")).toBeVisible();
  await bench.stop("SIGKILL");
  await page.getByRole("button", { name: "Read from drive" }).click();
  await expect(page.getByRole("alert")).toContainText("No answer from");
});

test("both families side by side before a drive is replaced: carried, approximated, no counterpart", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "HM-01");
  await rail(page, "Settings sheet").click();
  await page.getByRole("tab", { name: "Move" }).click();
  const row = (name: string) => page.getByRole("row").filter({ hasText: name });
  await expect(row("motor.power")).toContainText("30.00 kW");
  await expect(row("motor.power")).toContainText("carried");
  await expect(row("ramp.up")).toContainText("approximated");
  await expect(row("motor.poles")).toContainText("no counterpart");
  await expect(row("protect.overload")).toContainText("90 %");
  await page.getByLabel("Its rated current").fill("110 A");
  await expect(row("protect.overload")).toContainText("50 %");
});

test("a drive that runs without a plan: what it holds is taken as wanted, and undone", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Settings sheet").click();
  await page.getByRole("button", { name: "Read and save as found" }).click();
  await expect(page.getByText(/settings read\. Saved as found\./)).toBeVisible();
  await page.getByRole("tab", { name: /Not decided 3/ }).click();
  await page.getByRole("button", { name: "Take what the drive holds" }).click();
  await expect(page.getByText(/Taken as wanted: Preset 1, Preset 2, Preset 3/)).toBeVisible();
  await expect(page.getByRole("tab", { name: /Not decided 0/ })).toBeVisible();
  await rail(page, "Signal").click();
  await expect(field(page, "intent.preset_1")).toHaveValue("255 r/min");
  await page.keyboard.press("Control+z");
  await expect(field(page, "intent.preset_1")).toHaveValue("");
});

test("a slow drive: the read shows how far it is, and is stopped; what was read is kept", async ({ page, empty, start }, info) => {
  info.annotations.push({ type: "offline" }); // a stopped request is an error in the console
  const bench = await start("bench", "--dialect", "Tarn", "--listen", "127.0.0.1:0", "--delay", "400ms");
  await page.goto(empty.url);
  await page.getByLabel("Place", { exact: true }).fill("Slow");
  await page.getByLabel("Your initials").fill("RH");
  await page.getByRole("radio", { name: /^Simulated/ }).check();
  await page.getByRole("button", { name: "Begin" }).click();
  await page.getByRole("button", { name: "New drive" }).click();
  await page.getByRole("dialog").getByLabel("Tag").fill("S-1");
  await page.getByRole("dialog").getByLabel("Drive family").selectOption("Tarn");
  await page.getByRole("button", { name: "Begin with the plate" }).click();
  await rail(page, "Settings sheet").click();
  await field(page, "link.address").fill(bench.url);
  await field(page, "link.address").blur();
  await saved(page);
  await page.getByRole("button", { name: "Read from drive" }).click();
  const bar = page.getByLabel("Reading the drive");
  await expect.poll(() => bar.evaluate((b: HTMLProgressElement) => b.value)).toBeGreaterThan(0.1);
  await page.getByRole("button", { name: "Stop reading" }).click();
  await expect(page.getByRole("alert")).toContainText("Stopped. What was read is kept.");
  await page.getByRole("tab", { name: /^All/ }).click();
  await expect(page.locator('tr[data-setting="1B"]')).toContainText("as delivered");
  await expect(page.locator('tr[data-setting="9B"]')).toContainText("never looked at");
});
