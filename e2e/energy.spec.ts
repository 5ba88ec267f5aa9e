import type { Page } from "@playwright/test";
import { answer, check, dead, inHand, keys, mouse, nameSource, state, switchOn, takeDangers, type Hand } from "./commission";
import { axe, expect, field, openAs, openDrive, rail, reading, saved, test } from "./tingate";

const band = (page: Page) => page.getByRole("region", { name: "Energy" });
const measure = (page: Page, key: string) => page.locator(`[data-measure="${key}"]`);

async function type(page: Page, key: string, text: string) {
  await measure(page, key).fill(text);
  await measure(page, key).press("Enter");
}

/** A drive made by hand in an empty database, its mains named, on Tarn. */
async function made(page: Page, url: string) {
  await page.goto(url);
  await page.getByLabel("Place", { exact: true }).fill("Works");
  await page.getByLabel("Your initials").fill("RH");
  await page.getByRole("radio", { name: /^Simulated/ }).check();
  await page.getByRole("button", { name: "Begin" }).click();
  await page.getByRole("button", { name: "New drive" }).click();
  await page.getByRole("dialog").getByLabel("Tag").fill("F-1");
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
}

/** From Match to Wake with everything that goes wrong on the way. */
async function matchToWake(page: Page, folder: string, hand: Hand) {
  await rail(page, "Match").click();
  await answer(page, "match", folder, hand);
  await hand(page.getByRole("button", { name: "Pass gate" }));
  await expect(rail(page, "Match")).toContainText("passed");
  await switchOn(page);

  // Isolate: the mains alone, since nobody has thought of the other source yet.
  await rail(page, "Dead").click();
  await inHand(page, "T5", "ac-and-dc");
  await expect(page.getByRole("button", { name: "Record DEAD" })).toBeDisabled();
  await hand(page.getByRole("button", { name: /Opened and locked by me: Panel P1/ }));
  await expect(band(page)).toContainText("NOT KNOWN, treat as live");
  for (const name of ["dead/dangers/taken", "dead/sources/all", "dead/label/hung", "dead/ppe/worn", "dead/shaft/blocked"])
    await hand(check(page, name).getByRole("button", { name: /^Confirm/ }));
  await hand(check(page, "dead/reach/dc").getByRole("button", { name: "can be reached", exact: true }));
  await page.getByLabel("Range it stands on").selectOption("1000 V DC");
  await type(page, "dead/wait/minutes", "5");
  await type(page, "dead/meter/before", "62.4");
  await page.getByLabel("Range it stands on").selectOption("1000 V AC");
  await type(page, "dead/meter/before-ac", "231");
  await page.getByLabel("Range it stands on").selectOption("1000 V DC");

  // The link does not fall: the gate is barred, and says why.
  for (const v of ["310", "311", "310"]) {
    await type(page, "dead/measure/dc-link", v);
    await expect(check(page, "dead/measure/dc-link")).toContainText(`${v} V`);
  }
  await expect(page.getByRole("complementary").getByText("The DC link does not fall")).toBeVisible();
  await expect(rail(page, "Dead")).toContainText("barred");

  // A second source is found, and found live: it is named, and everything before counts no more.
  await hand(page.getByRole("button", { name: "change", exact: true }));
  await page.getByLabel("Name of another source").fill("Control supply");
  await page.getByLabel("Name of another source").press("Enter");
  const source = page.getByRole("group", { name: "Control supply" });
  await source.getByLabel("Opened by").fill("F12");
  await source.getByLabel("Opened by").press("Enter");
  await expect(page.locator('li[data-check^="dead/isolate/"]').filter({ hasText: "Control supply" })).toContainText("Open F12");
  await band(page).getByRole("button", { name: "Record…" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Supply that feeds this drive").selectOption({ label: "Control supply" });
  await dialog.getByLabel("L1–L2").fill("231");
  await dialog.getByRole("button", { name: "It is live" }).click();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await expect(check(page, "dead/sources/all")).toContainText("Confirmed before a value changed");
  await expect(rail(page, "Dead")).not.toContainText("passed");

  // Now all of it, anew.
  await hand(check(page, "dead/sources/all").getByRole("button", { name: /^Confirm/ }));
  await dead(page, folder, hand);

  // Wake, with one check waived for a reason that shows.
  await rail(page, "Settings sheet").click();
  await reading(page, "4D").fill("8.0");
  await reading(page, "4D").press("Enter");
  await expect(page.locator("tr[data-code='4D']")).toContainText("as delivered");
  await rail(page, "Keep").click();
  await hand(page.getByRole("button", { name: "Save as found" }));
  await rail(page, "Wake").click();
  const people = check(page, "wake/drive/class");
  await hand(people.getByRole("button", { name: "waive…" }));
  await people.getByLabel(/Reason to waive/).fill("alone on site, doors locked");
  await hand(people.getByRole("button", { name: "Waive" }));
  await expect(people).toContainText("Reason: alone on site, doors locked");
  // A line far off is refused by the gate, and measured again.
  await type(page, "wake/line/1", "330");
  await expect(check(page, "wake/line/1")).toContainText("330 V; wanted 360 to 440 V");
  await expect(rail(page, "Wake")).toContainText("barred");
  await type(page, "wake/line/1", "398");
  await expect(check(page, "wake/line/1")).not.toContainText("wanted 360");
  await answer(page, "wake", folder, hand);
  await hand(page.getByRole("button", { name: "Pass gate" }));
  await expect(rail(page, "Wake")).toContainText("passed");

  // A plate change reopens what rested on it; undone, it is closed again.
  await rail(page, "Plate").click();
  const current = page.locator('[data-field$=".current"][data-field^="motor.rows."]').first();
  await current.fill("19.5");
  await saved(page);
  await expect(rail(page, "Match")).toContainText("look again");
  await page.keyboard.press("Control+z");
  await expect(rail(page, "Match")).toContainText("passed");
}

test("from Match to Wake: a link that does not fall, a second source, a waiver, a reopening undone", async ({ page, start, folder }) => {
  test.setTimeout(150_000);
  const p = await start(
    "serve",
    "--simulated",
    "--data",
    `${folder}/a`,
    "--listen",
    "127.0.0.1:0",
    "--clock",
    "2026-11-25T10:00:00Z",
    "--clock-rate",
    "120",
  );
  await made(page, p.url);
  await matchToWake(page, folder, mouse);
});

test("the same by keys alone", async ({ page, start, folder }) => {
  test.setTimeout(150_000);
  const p = await start(
    "serve",
    "--simulated",
    "--data",
    `${folder}/b`,
    "--listen",
    "127.0.0.1:0",
    "--clock",
    "2026-11-25T10:00:00Z",
    "--clock-rate",
    "120",
  );
  await made(page, p.url);
  await matchToWake(page, folder, keys);
});

test("a practice is switched half-way: its effect is seen first, and undo brings the old one back", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await page.getByRole("button", { name: "Practice: Stop first" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("button", { name: "see what it would change" }).click();
  await expect(dialog).toContainText("42 V DC");
  await expect(dialog).toContainText("60 V DC");
  await expect(dialog.getByText("Dead: Isolator at the motor opened and locked too").first()).toBeVisible();
  await dialog.getByRole("button", { name: "Follow Turn first on this drive" }).click();
  await expect(page.getByRole("button", { name: "Practice: Turn first" })).toBeVisible();
  const order = await page.getByRole("navigation", { name: "Gates" }).getByRole("link").allTextContents();
  expect(order.slice(0, 7).map((t) => t.replace(/[^A-Z].*$/, "").trim() || t.slice(0, 4)).length).toBe(7);
  expect(order.findIndex((t) => t.includes("Span"))).toBeLessThan(order.findIndex((t) => t.includes("Plate")));
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("button", { name: "Practice: Stop first" })).toBeVisible();
});

test("a place names its shifts and its practice; a practice comes from its own file", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await page.getByRole("button", { name: "Shifts, practice, zone" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("A shift changes at").fill("6 o'clock");
  await dialog.getByRole("button", { name: "Keep" }).click();
  await expect(dialog).toContainText("times of day, like 06:00");
  await dialog.getByLabel("A shift changes at").fill("07:00, 19:00");
  await dialog.getByLabel("Practice of drives that name none").selectOption("turn-first");
  await dialog.getByRole("button", { name: "Keep" }).click();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await openDrive(page, "SP-03");
  await page.getByRole("button", { name: "Practice: Turn first" }).click();
  const file = (text: string) =>
    dialog
      .getByLabel("Add a practice from its file")
      .setInputFiles({ name: "ours.yaml", mimeType: "application/yaml", buffer: Buffer.from(text) });
  await file("name: ours\ntitle: Ours\nversion: 1\n");
  await expect(dialog).toContainText("order");
  const shipped = await (await page.request.get(`${demo.url}/api/practices`)).json();
  const p = shipped.practices.find((x: { name: string }) => x.name === "stop-first");
  await file(
    JSON.stringify({
      name: "ours",
      title: "Ours",
      version: "1",
      about: "As we work",
      order: p.order,
      choices: { ...p.choices, dead_limit: "50" },
    }),
  );
  await expect(dialog.getByRole("heading", { name: /Ours/ })).toBeVisible();
  await dialog.getByRole("region", { name: "Ours" }).getByRole("button", { name: "see what it would change" }).click();
  await expect(dialog).toContainText("50 V DC");
});

test("what the keypad shows is tapped on its face", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await takeDangers(page);
  await rail(page, "Wake").click();
  const face = page.getByRole("region", { name: "Face of the keypad" });
  await face.getByRole("button", { name: "It shows Ready" }).click();
  await expect(face.getByRole("status")).toHaveText("Ready");
  await expect(check(page, "wake/drive/shows")).toContainText(": holds");
  await face
    .getByRole("button", { name: /something else/ })
    .last()
    .click();
  await expect(check(page, "wake/drive/lamps")).toContainText("Look it up under the family's faults");
  await face.getByRole("button", { name: /^Here, white/ }).click();
  await expect(check(page, "wake/drive/lamps")).toContainText(": holds");
});

test("a jumper goes into the register, shows on every screen, and bars Keep until it is out", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "BP-02");
  await expect(rail(page, "Keep")).toContainText("passed");
  await page.keyboard.press("Control+k");
  await page.keyboard.type("temporary");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Where").fill("torque-off terminals");
  await dialog.getByLabel("Why").fill("first turn");
  await dialog.getByLabel("Until when").fill("the circuit is wired");
  await dialog.getByRole("button", { name: "Record it" }).click();
  await page.keyboard.press("Escape");
  const bar = page.getByRole("region", { name: "Temporary things" });
  for (const name of ["Plate", "Settings sheet", "History"]) {
    await rail(page, name).click();
    await expect(bar).toContainText("jumper at torque-off terminals until the circuit is wired");
  }
  await expect(rail(page, "Keep")).toContainText("barred");
  await bar.getByRole("button", { name: "Register of temporary things" }).click();
  await dialog.getByLabel(/What was done with the jumper/).fill("taken out");
  await dialog.getByRole("button", { name: "Out again" }).click();
  await expect(dialog).toContainText("Nothing is recorded.");
  await page.keyboard.press("Escape");
  await expect(bar).toHaveCount(0);
  await expect(rail(page, "Keep")).toContainText("passed");
});

test("one lock a person: handed over by name, and never taken off for another in silence", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Dead").click();
  await page.getByRole("button", { name: /Opened and locked by me: Panel P1/ }).click();
  await page.getByRole("button", { name: "hand over" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("To whom, by name").selectOption({ label: "TK T. Kvernes" });
  await dialog.getByRole("button", { name: "Record it" }).click();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await page.getByRole("button", { name: "was removed…" }).click();
  await dialog.getByRole("button", { name: "Record it" }).click();
  await expect(dialog.getByRole("alert")).toContainText("machine was looked over");
  await dialog.getByLabel(/^Why/).fill("TK is on the boat, machine looked over");
  await dialog.getByLabel(/^Who was reached/).fill("TK, by radio");
  await dialog.getByRole("button", { name: "Record it" }).click();
  await expect(page.getByRole("button", { name: /Opened and locked by me: Panel P1/ })).toBeVisible();
  for (const name of ["Match", "Dead", "Wake"]) {
    await rail(page, name).click();
    await expect(page.getByRole("heading", { level: 1, name })).toBeVisible();
    for (const width of [1280, 420]) {
      await page.setViewportSize({ width, height: 800 });
      const found = await axe(page);
      expect(found.violations.map((v) => `${name} at ${width}: ${v.id} ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);
    }
    await page.setViewportSize({ width: 1280, height: 800 });
  }
});
