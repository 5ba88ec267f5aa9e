import AxeBuilder from "@axe-core/playwright";
import { expect, field, openAs, openDrive, rail, saved, test } from "./tingate";

test("Span: the rise and fall of the whole drive, a handle moved, a fall too short and its mend, the shortest that holds taken", async ({ page, demo }) => {
  test.setTimeout(120_000);
  await openAs(page, demo.url);
  await openDrive(page, "EF-04");
  await rail(page, "Span").click();
  const ride = page.getByRole("region", { name: "Rise and fall" });
  await expect(ride.getByText(/^Rise 29 s, fall 43 s/)).toBeVisible();
  // A handle by keys: let go, it is entered, and the sheet follows in the drive's own counting.
  const rise = ride.getByRole("slider", { name: "Rise, seconds" });
  const before = await page.getByRole("complementary").textContent();
  await rise.focus();
  await page.keyboard.press("Shift+ArrowRight");
  await saved(page);
  await expect(field(page, "intent.rise")).toHaveValue(/^30\.\d s$/);
  await expect(async () => expect(await page.getByRole("complementary").textContent()).not.toBe(before)).toPass();
  // And by the pointer: the fall is pulled far too short; the picture says what trips or holds it.
  const fall = (await ride.getByRole("slider", { name: "Fall, seconds" }).boundingBox())!;
  await page.mouse.move(fall.x + fall.width / 2, fall.y + fall.height / 2);
  await page.mouse.down();
  await page.mouse.move(fall.x - 140, fall.y + fall.height / 2, { steps: 6 });
  await page.mouse.up();
  await saved(page);
  await expect(field(page, "intent.fall")).not.toHaveValue("45 s");
  await field(page, "intent.fall").fill("3 s");
  await field(page, "intent.fall").press("Enter");
  await ride.getByRole("checkbox", { name: "without a resistor" }).check();
  await expect(ride.getByText(/bus control stretched the fall|It trips in the fall/)).toBeVisible();
  await ride.getByRole("button", { name: "Shortest that holds" }).click();
  const times = ride.getByLabel("Shortest that holds", { exact: true });
  await expect(times.getByText("Coasting")).toBeVisible({ timeout: 20_000 });
  await times.getByRole("button", { name: "take as fall" }).first().click();
  await saved(page);
  await expect(field(page, "intent.fall")).toHaveValue(/^(9|1\d)(\.\d)? s$/);
  for (const width of [1280, 420]) {
    await page.setViewportSize({ width, height: 800 });
    const found = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]).analyze();
    expect(found.violations.map((v) => `Span at ${width}: ${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);
  }
});

test("Signal: the plan is proved on its bench; one that trips says what would hold, and is mended", async ({ page, demo }) => {
  test.setTimeout(120_000);
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Signal").click();
  const proof = page.getByRole("region", { name: "Proved on the bench" });
  await proof.getByRole("button", { name: "Run the plan" }).click();
  await expect(proof.getByRole("status")).toContainText("✓ All 9 hold", { timeout: 20_000 });
  await proof.getByRole("button", { name: "Rise, to 97 % of the speed" }).click();
  await expect(proof.getByRole("img", { name: /up to 14\d\d r\/min/ })).toBeVisible();
  await rail(page, "History").click();
  await expect(page.getByText("plan proved on its bench: All 9 hold.").first()).toBeVisible();

  await page.goto(demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Signal").click();
  await proof.getByRole("button", { name: "Run the plan" }).click();
  await expect(proof.getByRole("status")).toContainText(/It trips in the rise: .*hold/, { timeout: 20_000 });
  await rail(page, "Span").click();
  await expect(page.getByText(/It trips in the rise/)).toBeVisible();
  // The press is started empty: the load was taken too heavy.
  await field(page, "intent.load_torque").fill("60");
  await field(page, "intent.load_torque").press("Enter");
  await saved(page);
  await expect(page.getByText(/It trips in the rise/)).toHaveCount(0);
  await rail(page, "Signal").click();
  await proof.getByRole("button", { name: "Run the plan" }).click();
  await expect(proof.getByRole("status")).toContainText(/hold/, { timeout: 20_000 });
  await expect(proof.getByRole("status")).not.toContainText("trips");
  const found = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]).analyze();
  expect(found.violations.map((v) => `${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);
});

test("Signal: what the inputs do in every combination, and why it does not start", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Signal").click();
  const truth = page.getByRole("region", { name: "Truth table of the inputs" });
  await truth.getByRole("button", { name: /What do its inputs do/ }).click();
  await expect(truth.getByRole("row", { name: /closed .*moves: forward/ }).first()).toBeVisible();
  await expect(truth.getByRole("row", { name: /open stands/ }).first()).toBeVisible();
  const why = page.getByRole("region", { name: "Why does it not start" });
  await why.getByRole("button", { name: "Why does it not start?" }).click();
  await expect(why.locator('li[data-condition="line"]')).toContainText("Recorded");
  for (const key of ["fault", "torque-off"]) await why.locator(`li[data-condition="${key}"]`).getByRole("button", { name: /^It is so/ }).click();
  // The wire of the reference is off: the reference asks for nothing.
  await why.locator('li[data-condition="reference"]').getByRole("button", { name: /^It is not so/ }).click();
  await expect(why.getByRole("status")).toContainText("Runs but stands still: no signal");
  const found = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]).analyze();
  expect(found.violations.map((v) => `${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);
});

test("Signal: the reference's scaling from measured points, and the setting that mends it", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Signal").click();
  const points = page.getByRole("group", { name: /^Measured/ });
  for (const [i, [volts, speed]] of [["1", "60"], ["9", "1130"]].entries()) {
    await points.getByRole("button", { name: "Add a point" }).click();
    const point = points.locator("[data-point]").nth(i);
    await point.locator("input").nth(0).fill(volts!);
    await point.locator("input").nth(1).fill(speed!);
    await saved(page);
  }
  const column = page.getByRole("complementary");
  await expect(column).toContainText(/The reference (has another slope|is scaled otherwise)/);
  await expect(column).toContainText("8E");
  await points.locator("[data-point]").nth(1).locator("input").nth(1).fill("1310");
  await points.locator("[data-point]").nth(0).locator("input").nth(1).fill("146");
  await saved(page);
  await expect(column).not.toContainText(/The reference (has another slope|is scaled otherwise)/);
});

test("Span: a recorded run is laid over the prediction, and the difference named", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Span").click();
  const ride = page.getByRole("region", { name: "Rise and fall" });
  await expect(ride.getByText(/^Rise 12 s/)).toBeVisible();
  // A recorder's list: twice the rise, in columns of its own.
  const rows = Array.from({ length: 500 }, (_, i) => {
    const t = i * 0.1;
    const v = t < 2 ? 0 : t < 26 ? ((t - 2) / 24) * 1460 : t < 30 ? 1460 : Math.max(0, 1460 - ((t - 30) / 8) * 1460);
    return `${t.toFixed(1)};${v.toFixed(0)};15`;
  });
  const file = { name: "run.csv", mimeType: "text/csv", buffer: Buffer.from(`clock;shaft;amps\n${rows.join("\n")}`) };
  await ride.getByLabel("Lay a recorded run over (CSV)").setInputFiles(file);
  await expect(ride.getByText(/columns for time and speed/)).toBeVisible();
  await ride.getByLabel("time is column").fill("clock");
  await ride.getByLabel("speed is column").fill("shaft");
  await ride.getByLabel("Lay a recorded run over (CSV)").setInputFiles(file);
  await expect(ride.getByRole("status", { name: "Recorded run" })).toContainText(/rise 2[23](\.\d+)? s/);
  await expect(ride.getByRole("status", { name: "Recorded run" })).toContainText("times as long");
});

