import { expect, field, openAs, openDrive, openRide, rail, saved, test } from "./tingate";

test("A character stops nothing: 15 . is typed, said to be unreadable, corrected, saved", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  const current = page.locator('[data-field$=".current"]').first();
  const before = await current.inputValue();
  for (const bad of ["15 .", "15 ,", ". ", "15 ' ."]) {
    await current.fill(bad);
    await current.press("Enter");
    await saved(page);
    await current.focus();
    await expect(page.getByText(/wanted: a current/)).toBeVisible();
  }
  await current.fill("15.5");
  await current.press("Enter");
  await saved(page);
  await expect(page.getByText(/wanted: a current/)).toHaveCount(0);
  await field(page, "motor.makers_type").fill("K7-4b");
  await saved(page);
  await page.reload();
  await expect(current).toHaveValue("15.5");
  await expect(field(page, "motor.makers_type")).toHaveValue("K7-4b");
  expect(before).not.toBe("");
});

test("What the server cannot take stands aside, the rest goes on, and a person sends it again or drops it", async ({
  page,
  demo,
}, info) => {
  info.annotations.push({ type: "offline" });
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  let failing = true;
  await page.route("**/api/drives/*", (route) => {
    const body = route.request().postData() ?? "";
    if (failing && route.request().method() === "PATCH" && body.includes("cursed"))
      return route.fulfill({
        status: 500,
        contentType: "application/problem+json",
        body: JSON.stringify({
          type: "about:blank",
          title: "",
          status: 500,
          detail: "Something failed in Tin Gate; nothing of this was stored.",
          errors: [],
        }),
      });
    return route.continue();
  });
  await field(page, "motor.makers_type").fill("cursed");
  await field(page, "motor.serial").fill("2207-0419");
  const aside = page.getByRole("region", { name: "What stands aside" });
  await expect(aside).toContainText("cursed", { timeout: 15_000 });
  await expect(aside).toContainText("the rest is saved");
  await saved(page);
  // It outlives the window, with the text in its field.
  await page.reload();
  await expect(aside).toContainText("cursed");
  await expect(field(page, "motor.makers_type")).toHaveValue("cursed");
  await expect(field(page, "motor.serial")).toHaveValue("2207-0419");
  await field(page, "motor.frame").fill("132S");
  await saved(page);
  failing = false;
  await aside.getByRole("button", { name: "Send again" }).click();
  await expect(aside).toHaveCount(0);
  await saved(page);
  failing = true;
  await field(page, "motor.makers_type").fill("cursed again");
  await expect(aside).toContainText("cursed again", { timeout: 15_000 });
  await aside.getByRole("button", { name: "Drop" }).click();
  await expect(aside).toHaveCount(0);
  await expect(field(page, "motor.makers_type")).toHaveValue("cursed");
  // What is refused, with the field that is wrong, stands aside as well.
  await page.evaluate(() => {
    const box = document.querySelector<HTMLInputElement>('[data-field="motor.frame"]')!;
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")!.set!.call(box, "x".repeat(5000));
    box.dispatchEvent(new Event("input", { bubbles: true }));
  });
  await expect(aside).toContainText("want at most 4000");
  await saved(page);
});

test("What one person typed without a connection stays theirs, with its time, whoever sits there when it is sent", async ({
  page,
  demo,
}, info) => {
  info.annotations.push({ type: "offline" });
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  let away = true;
  await page.route("**/api/drives/*", (route) => (away && route.request().method() === "PATCH" ? route.abort() : route.continue()));
  await field(page, "motor.makers_type").fill("typed by RH");
  await expect(page.getByText(/kept here and sent later/)).toBeVisible();
  await page.getByRole("button", { name: /RH/ }).first().click();
  await page.getByRole("dialog").getByRole("button", { name: "TK" }).click();
  await page.waitForTimeout(200); // the clock of the demo runs 120 times as fast: some 24 s
  away = false;
  await page.evaluate(() => window.dispatchEvent(new Event("online")));
  await saved(page);
  await field(page, "motor.serial").fill("typed by TK");
  await saved(page);
  await rail(page, "History").click();
  await expect(page.getByRole("row", { name: /RH.*typed by RH/ })).toBeVisible();
  await expect(page.getByRole("row", { name: /TK.*typed by TK/ })).toBeVisible();
  await expect(page.getByText(/clock set by hand, 120 times as fast/).first()).toBeVisible();
});

test("The sixth window opens, and the seventh: one event stream serves them all", async ({ page, context, demo }) => {
  await openAs(page, demo.url);
  const windows = [page];
  for (let i = 0; i < 7; i++) {
    const w = await context.newPage();
    await w.goto(demo.url);
    await expect(w.getByRole("list", { name: "Drives" })).toBeVisible();
    windows.push(w);
  }
  const last = windows.at(-1)!;
  await openDrive(last, "DD-02");
  await openDrive(page, "DD-02");
  await field(last, "motor.makers_type").fill("seen in another window");
  await saved(last);
  await expect(field(page, "motor.makers_type")).toHaveValue("seen in another window");
  const streams = await Promise.all(
    windows.map((w) => w.evaluate(() => performance.getEntriesByType("resource").filter((e) => e.name.endsWith("/api/events")).length)),
  );
  expect(streams.length).toBe(8);
});

// A reading is a hundred entries and as many events: the screen shows it at once, by a handful of answers, and does not wait for the last
// event.
test("A reading of the whole drive is shown at once, and fetched by few", async ({ page, demo }) => {
  let fetched = 0;
  page.on("request", (r) => void (r.method() === "GET" && /\/api\/drives\/[^/]+$/.test(r.url()) && fetched++));
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Settings sheet").click();
  await page.getByRole("button", { name: "Read and save as found" }).click();
  await expect(page.getByText(/138 settings read\. Saved as found\./)).toBeVisible();
  await expect(page.getByRole("progressbar", { name: "Settings read back" })).not.toHaveAttribute("aria-valuenow", "0");
  await page.waitForLoadState("networkidle");
  expect(fetched).toBeLessThan(12);
});

test("What is asked right after typing is asked of what was typed: the shortest times, a proof, undo", async ({ page, demo }) => {
  test.setTimeout(120_000);
  const ride = await openRide(page, demo.url);
  await page.route("**/api/drives/*", async (route) => {
    if (route.request().method() === "PATCH") await new Promise((slow) => setTimeout(slow, 1500));
    await route.continue();
  });
  const fall = field(page, "intent.fall");
  await fall.fill("20 s");
  await fall.press("Enter");
  await ride.getByRole("button", { name: "Shortest that holds" }).click();
  await expect(ride.getByLabel("Shortest that holds", { exact: true }).getByText("Coasting")).toBeVisible({ timeout: 20_000 });
  // Undo takes back what was typed last, not what was saved last.
  await fall.fill("21 s");
  await fall.press("Enter");
  await page.keyboard.press("Control+z");
  await expect(fall).toHaveValue("20 s");
  await saved(page);
  await expect(fall).toHaveValue("20 s");
  // A proof is of the plan with what was typed before it.
  await field(page, "intent.rise").fill("31 s");
  await field(page, "intent.rise").press("Enter");
  await rail(page, "Signal").click();
  const proof = page.getByRole("region", { name: "Proved on the bench" });
  await proof.getByRole("button", { name: "Run the plan" }).click();
  await expect(proof.getByRole("status")).toBeVisible({ timeout: 40_000 });
  await expect(proof.getByText("The plan has changed since it was run")).toHaveCount(0);
});

test("Who types faster than a plan is ridden waits for one ride, not for one a field; all is stored, and shown as stored", async ({
  page,
  demo,
}) => {
  await openRide(page, demo.url);
  const more: boolean[] = [];
  let first = true;
  await page.route("**/api/drives/*", async (route) => {
    if (route.request().method() !== "PATCH") return route.continue();
    more.push(route.request().url().endsWith("?more=true"));
    const slow = first;
    first = false;
    const answer = await route.fetch();
    if (slow) await expect(page.getByText("Saving…")).toBeVisible();
    if (slow) await expect(field(page, "intent.load_torque")).toHaveValue("31");
    await route.fulfill({ response: answer });
  });
  const typed = [
    ["lowest_speed", "300"],
    ["rise", "31 s"],
    ["fall", "45 s"],
    ["current_limit", "120 %"],
    ["load_torque", "31"],
  ] as const;
  for (const [name, text] of typed) await field(page, `intent.${name}`).fill(text);
  await saved(page);
  expect(more.at(-1)).toBe(false);
  expect(more.filter((m) => !m).length).toBeLessThanOrEqual(2); // the first, which nothing waited behind, and the last
  await expect(page.getByRole("region", { name: "Rise and fall" }).getByText(/^Rise 30 s, fall 42 s/)).toBeVisible();
  await page.reload();
  for (const [name, text] of typed) await expect(field(page, `intent.${name}`)).toHaveValue(text);
});
