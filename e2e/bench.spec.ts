import { axe, expect, openAs, openDrive, rail, test } from "./tingate";

const reads = (text: string | null) => Number((text ?? "").replace("−", "-"));

test("the bench runs the job's own drive: run, break, trip, reset, keep the trace and open it again", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Bench").click();
  await page.getByRole("button", { name: "Set up the bench" }).click();
  const band = page.getByRole("region", { name: "Energy" });
  await expect(band).toContainText("BENCH");
  await expect(band).toContainText("Nothing here is wired to a machine");
  // A switch says at once what the hand has set.
  const turn = async (name: RegExp) => {
    const lever = page.getByRole("switch", { name });
    const was = await lever.getAttribute("aria-checked");
    await lever.click();
    await expect(lever).toHaveAttribute("aria-checked", was === "true" ? "false" : "true");
  };
  const speed = page.locator("[data-figure='speed r/min']");
  const state = page.getByRole("list", { name: "State of the drive" }).locator("[aria-current]");
  await turn(/^Mains/);
  await expect(state).toHaveText("switch-on disabled");
  for (let i = 0; i < 3; i++) await page.keyboard.press("]"); // eight times real time
  await expect(page.getByText("8 × real time")).toBeVisible();
  await page.getByLabel("Analog input").fill("8");
  await turn(/^X1 /);
  await expect(state).toHaveText("running");
  await expect.poll(async () => reads(await speed.textContent())).toBeGreaterThan(1000);

  // Torque off: it runs out; closed again with run held it wants a fresh command.
  await turn(/^A and B /);
  await expect(page.getByText("Torque is off")).toBeVisible();
  await turn(/^A and B /);
  await expect(page.getByText("A fresh run command is wanted")).toBeVisible();
  await turn(/^X1 /);
  await turn(/^X1 /);
  await expect(state).toHaveText("running");

  // A lost phase trips by this family's own word; held run does not start it after the reset.
  await page.getByRole("button", { name: "Break something…" }).click();
  await page.getByLabel("one phase of the mains lost").click();
  await expect(page.getByLabel("one phase of the mains lost")).toBeChecked();
  await page.getByRole("button", { name: "Done" }).click();
  await expect(state).toHaveText("fault");
  await expect(page.getByRole("complementary")).toContainText("At that moment");
  await page.getByRole("button", { name: "Break something…" }).click();
  await page.getByRole("button", { name: "Mend everything" }).click();
  await page.getByRole("button", { name: "Done" }).click();
  await page.getByRole("button", { name: "Reset" }).click();
  await expect(state).toHaveText("switch-on disabled");

  // One phase to the motor open: the three currents tell, then the drive does, by the code of its family.
  await turn(/^X1 /);
  await turn(/^X1 /);
  await expect(state).toHaveText("running");
  await expect.poll(async () => reads(await speed.textContent())).toBeGreaterThan(1000);
  const clamp = page.getByRole("list", { name: "Each phase to the motor" }).getByRole("listitem");
  await expect(clamp.nth(0)).not.toHaveText("U 0.0");
  await page.getByRole("button", { name: "Break something…" }).click();
  await page.getByLabel("one phase to the motor open").click();
  await expect(page.getByLabel("one phase to the motor open")).toBeChecked();
  await page.getByRole("button", { name: "Done" }).click();
  await expect(state).toHaveText("fault");
  await expect(page.getByRole("complementary")).toContainText("F.3330 phase failure of the motor");
  await expect(clamp.nth(0)).toHaveText("U 0.0");
  await page.getByRole("button", { name: "Break something…" }).click();
  await page.getByRole("button", { name: "Mend everything" }).click();
  await page.getByRole("button", { name: "Done" }).click();
  await page.getByRole("button", { name: "Reset" }).click();
  await expect(state).toHaveText("switch-on disabled");

  // Stop by keys, whatever has the focus.
  await turn(/^X1 /);
  await turn(/^X1 /);
  await expect(state).toHaveText("running");
  await page.getByLabel("Analog input").focus();
  await page.keyboard.press("Control+.");
  await expect(page.getByRole("switch", { name: /^X1 / })).not.toBeChecked();
  await expect(state).not.toHaveText("running", { timeout: 20_000 });

  await page.getByRole("button", { name: "Take this trace" }).click();
  await expect(page.getByRole("region", { name: "Kept traces" })).toContainText("bench run of");
  await page.getByRole("button", { name: "Open", exact: true }).click();
  const trace = page.getByRole("region", { name: /^Trace bench run/ });
  await expect(trace.getByRole("row", { name: /speed/ })).toBeVisible();
  await trace.getByLabel("First cursor").fill("3");
  await expect(trace.getByRole("row", { name: /^time/ })).toContainText("3.00");
  await page.getByRole("button", { name: "Back to the bench" }).click();
  for (const width of [1280, 420]) {
    await page.setViewportSize({ width, height: 800 });
    const found = await axe(page);
    expect(found.violations.map((v) => `bench at ${width}: ${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);
  }
  const bad = await page.evaluate(() =>
    fetch(location.pathname.replace("/drives/", "/api/drives/") + "/acts", {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ do: "terminal", n: 99 }),
    }).then(async (r) => [r.status, await r.text()] as const),
  );
  expect(bad[0]).toBe(422);
  expect(bad[1]).toContain("a terminal of 1 to");
});

test("what is wrong on the bench is read lead by lead, named by the family, and cleared as the family says", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Bench").click();
  await page.getByRole("button", { name: "Set up the bench" }).click();
  const state = page.getByRole("list", { name: "State of the drive" }).locator("[aria-current]");
  const beside = page.getByRole("complementary");
  const lever = (name: RegExp) => page.getByRole("switch", { name });
  await lever(/^Mains/).click();
  await expect(state).toHaveText("switch-on disabled");
  for (let i = 0; i < 3; i++) await page.keyboard.press("]");
  await page.getByLabel("Analog input").fill("9.5");
  await lever(/^X1 /).click();
  await expect
    .poll(async () => reads(await page.locator("[data-figure='speed r/min']").textContent()), { timeout: 15_000 })
    .toBeGreaterThan(1300);

  // One phase of the mains lower: its lead carries less than the others; told with what mends it.
  const breaking = page.getByRole("button", { name: "Break something…" });
  await breaking.click();
  await expect(page.getByRole("dialog")).toContainText("Not here, no brake is fitted: brake drags");
  await expect(page.getByLabel("encoder silent")).toHaveCount(0);
  await page.getByLabel("one phase of the mains 4 % lower").check();
  await page.getByRole("button", { name: "Done" }).click();
  const lines = page.getByRole("list", { name: "Each phase of the mains" }).getByRole("listitem");
  const amps = async (n: number) => reads(((await lines.nth(n).textContent()) ?? "").replace(/^L\d/, ""));
  await expect.poll(async () => (await amps(1)) / (await amps(2))).toBeGreaterThan(1.05);
  await expect(beside).toContainText("What mends it: a single-phase load on that phase");

  // A dip that the link does not outlive: it trips, and says so.
  await breaking.click();
  await page.getByLabel("The mains away for").selectOption("1");
  await page.getByRole("button", { name: "Let it dip" }).click();
  await page.getByRole("button", { name: "Mend everything" }).click();
  await page.getByRole("button", { name: "Done" }).click();
  await expect(beside).toContainText("F.3220 DC link under-voltage");
  await expect(beside).not.toContainText("Broken on this bench");

  // A phase to earth stays until the drive has been dark.
  await lever(/^X1 /).click();
  await page.getByRole("button", { name: "Reset" }).click();
  await expect(state).toHaveText("switch-on disabled");
  await lever(/^X1 /).click();
  await expect(state).toHaveText("running");
  await breaking.click();
  await page.getByLabel("one phase of the motor to earth").check();
  await page.getByRole("button", { name: "Done" }).click();
  await expect(state).toHaveText("fault");
  await expect(beside).toContainText("F.2330 earth leakage");
  await breaking.click();
  await page.getByRole("button", { name: "Mend everything" }).click();
  await page.getByRole("button", { name: "Done" }).click();
  await lever(/^X1 /).click();
  await page.getByRole("button", { name: "Reset" }).click();
  await expect(beside).toContainText("Only a power cycle clears this");
  await expect(state).toHaveText("fault");
  await lever(/^Mains/).click();
  await expect
    .poll(async () => reads(await page.locator("[data-figure='DC link V']").textContent()), { timeout: 15_000 })
    .toBeLessThan(100);
  await lever(/^Mains/).click();
  await expect(state).toHaveText("switch-on disabled");
});

test("a tune on the bench is refused, then done, and void when an entry of the motor changes", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Bench").click();
  await page.getByRole("button", { name: "Set up the bench" }).click();
  const tune = page.getByRole("region", { name: "Autotune" });
  // A switch says at once what the hand has set.
  const turn = async (name: RegExp) => {
    const lever = page.getByRole("switch", { name });
    const was = await lever.getAttribute("aria-checked");
    await lever.click();
    await expect(lever).toHaveAttribute("aria-checked", was === "true" ? "false" : "true");
  };
  await expect(tune).toContainText("Nothing is tuned");
  await tune.getByRole("button", { name: "Rotating, uncoupled" }).click();
  await expect(tune.getByRole("status")).toContainText("The load is coupled");
  await turn(/^Load /);
  await tune.getByRole("button", { name: "Rotating, uncoupled" }).click();
  await expect(tune.getByRole("status")).toContainText("No power");
  await turn(/^Mains/);
  await expect(page.getByRole("list", { name: "State of the drive" }).locator("[aria-current]")).toHaveText("switch-on disabled");
  for (let i = 0; i < 4; i++) await page.keyboard.press("]");
  await tune.getByRole("button", { name: "Rotating, uncoupled" }).click();
  await expect(tune.getByRole("progressbar")).toBeVisible();
  await expect(tune).toContainText("stator resistance");
  await expect(tune.getByRole("status")).toContainText("kept in the drive", { timeout: 20_000 });
  await expect(tune.getByText("Inertia")).toBeVisible();
  const code = await page.evaluate(async () => {
    const id = location.pathname.split("/")[2]!;
    const v = await (await fetch(`/api/drives/${id}`)).json();
    const l = (v.state.lines as { code: string; steps: number; voids?: string[]; planned: boolean }[]).find(
      (x) => x.planned && x.voids?.includes("tune"),
    )!;
    const r = await fetch(`/api/drives/${id}/bench/acts`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ do: "setting", what: l.code, value: l.steps - 1 }),
    });
    return [l.code, r.status] as const;
  });
  expect(code[1]).toBe(200);
  await expect(tune.getByRole("status")).toContainText("Void");
});

test("two benches ride one plan: by two controls laid over one another, by a setting typed wrongly and rightly, and both on one shaft", async ({
  page,
  demo,
}) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Bench").click();
  await page.getByRole("button", { name: "Two side by side…" }).click();
  const dialog = page.getByRole("dialog");
  const second = dialog.getByRole("group", { name: "Second" });
  await second.getByLabel("Control").selectOption("volts-per-hertz");
  await dialog.getByLabel("The load heavier").fill("50");
  await dialog.getByRole("button", { name: "Ride both" }).click();
  const laid = dialog.locator("path[data-laid]");
  await expect(laid).toHaveCount(8, { timeout: 30_000 });
  const lines = await laid.evaluateAll((l) => l.map((p) => p.getAttribute("d")!));
  expect(new Set(lines).size).toBe(8);
  for (const d of lines) expect(d.length).toBeGreaterThan(500);
  const table = dialog.getByRole("table", { name: "The two beside each other" });
  const row = (name: string) => table.getByRole("row").filter({ has: page.getByRole("rowheader", { name, exact: true }) });
  await expect(row("slower when knocked")).toContainText(/[1-9]\d* r\/min/);
  await expect(row("at most, rising")).toContainText(/\d+\.\d A/);
  const found = await axe(page);
  expect(found.violations.map((v) => `${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);

  // A setting typed as no keypad shows it is refused by name, and what was ridden before is gone with what it was asked for.
  await second.getByLabel("Control").selectOption("");
  await expect(table).toHaveCount(0);
  await second.getByLabel("Setting 1").fill("2003h:05");
  await second.getByLabel("Its value 1").fill("perhaps");
  await dialog.getByRole("button", { name: "Ride both" }).click();
  await expect(dialog).toContainText("perhaps");
  await expect(second.getByLabel("Its value 1")).toHaveValue("perhaps");
  await second.getByLabel("Its value 1").fill("on");
  await dialog.getByRole("button", { name: "Ride both" }).click();
  await expect(dialog.getByText("One setting differs")).toBeVisible({ timeout: 30_000 });

  // On one shaft, and by another family.
  await second.getByLabel("Family").selectOption("Brae");
  await dialog.getByLabel("both motors on one shaft").check();
  await dialog.getByLabel("The load heavier").fill("");
  await dialog.getByRole("button", { name: "Ride both" }).click();
  await expect(dialog).toContainText(/At speed the first gives \d+ % of the torque/, { timeout: 40_000 });
  await expect(row("drive")).toContainText(/Brae BR\d\d/);
});

test("a bench opened again shows nothing older than now: a switch is turned from where it stands", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Bench").click();
  await page.getByRole("button", { name: "Set up the bench" }).click();
  const mains = page.getByRole("switch", { name: /^Mains/ });
  await expect(mains).toHaveAttribute("aria-checked", "false");
  const awayAndBack = async () => {
    await rail(page, "Span").click();
    await expect(page.getByRole("heading", { name: "Span", level: 1 })).toBeVisible();
    await rail(page, "Bench").click();
  };
  await awayAndBack(); // what it answers to this stays in the browser
  await expect(mains).toHaveAttribute("aria-checked", "false");
  await mains.click();
  await expect(mains).toHaveAttribute("aria-checked", "true");
  // An answer that takes its time, as on a busy machine: what this browser saw last is not shown meanwhile.
  for (const what of ["**/bench?*", "**/bench/live"])
    await page.route(what, async (route) => {
      await new Promise((later) => setTimeout(later, 1500));
      await route.continue();
    });
  await awayAndBack();
  await mains.click();
  await expect(mains).toHaveAttribute("aria-checked", "false");
});
