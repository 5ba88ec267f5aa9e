import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import { axe, expect, field, openAs, openDrive, rail, reading, saved, test } from "./tingate";

const heron = new URL("./lists/heron.csv", import.meta.url).pathname;
const line = (page: Page, code: string) => page.locator(`tr[data-code="${code}"]`);

test("a stranger adds a family of 40 settings from a list, and an existing drive gets a right sheet", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await page.getByRole("link", { name: "Drive families" }).click();
  await page.getByRole("link", { name: "From a settings list" }).click();
  await page.getByLabel("Settings list", { exact: true }).setInputFiles(heron);
  await expect(page.getByText("40 rows, 40 settings.")).toBeVisible();
  // The columns were found by their headings; a wrong one is changed and read again.
  await expect(page.getByLabel("Column Factory setting holds")).toHaveValue("delivery");
  await page.getByLabel("Column Description holds").selectOption("");
  await expect(page.getByText("30 seem to carry")).toHaveCount(0);
  await page.getByLabel("Column Description holds").selectOption("name");
  await page.getByRole("button", { name: "Look at the 40 settings" }).click();
  const keep = page.getByRole("button", { name: "Keep this family" });
  await expect(keep).toBeDisabled();
  await page.getByLabel("Name").first().fill("Heron");
  await expect(page.getByText("40 settings, 32 with a role")).toBeVisible();
  // A fault is named where it stands, and nothing is kept while it does.
  await page.getByRole("button", { name: "Change H4" }).click();
  await page.getByLabel("Delivered").fill("500");
  await expect(page.getByText("wanted: a range that holds the delivery value 500")).toBeVisible();
  await expect(keep).toBeDisabled();
  await page.getByLabel("Delivered").fill("5,0");
  // What is not sure is looked at: percent of the drive, as this family's manual says.
  await page.getByRole("button", { name: /To look at/ }).click();
  await page.getByRole("button", { name: "Change K6" }).click();
  await page.getByLabel("Counted as").selectOption("percent-of-drive");
  for (const code of ["L1", "L2", "P5"])
    await expect(page.locator(`tr[data-draft="${code}"]`).or(page.getByText("40 settings")).first()).toBeVisible();
  await axe(page).then((r) => expect(r.violations.map((v) => v.id)).toEqual([]));
  await keep.click();
  await expect(page.getByRole("heading", { level: 1, name: "Heron 1" })).toBeVisible();
  await page.getByRole("link", { name: "Tin Gate: Yard" }).click();
  await openDrive(page, "BE-01");
  await rail(page, "Plate").click();
  await field(page, "rating.dialect").selectOption("Heron");
  await rail(page, "Settings sheet").click();
  // By hand: 4 kW, 8.1 A, 1455 r/min at 50 Hz, a 9 A drive; 1440 r/min at full torque need 48 + 1.5 = 49.5 Hz; 6 s to
  // 1440 r/min are 8 Hz per s, 50 Hz in 6.25 s, up to 6.3; 150 % of 8.1 A is 12.15 A, 135 % of 9 A.
  for (const [code, value] of [
    ["H1", "4.00 kW"],
    ["H4", "8.1 A"],
    ["H5", "1455 r/min"],
    ["K1", "50.0 Hz"],
    ["K2", "49.5 Hz"],
    ["K4", "8.1 A"],
    ["K6", "135 %"],
    ["L1", "6.3 s"],
    ["M1", "terminals"],
    ["M2", "preset speeds"],
  ] as const)
    await expect(line(page, code)).toContainText(value);
  await expect(line(page, "M1")).toContainText("could start motion");
});

test("a bad list says what is wrong, and what was pasted stays", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await page.goto(`${demo.url}/families/new`);
  await page.getByLabel("Settings list as text").fill("code;name;default\n;no code;1\nA1;Motor power;4");
  await page.getByRole("button", { name: "Read what is pasted" }).click();
  await expect(page.getByText("left out: line 2: no code")).toBeVisible();
  await page.getByRole("button", { name: "Look at the 1 settings" }).click();
  await expect(page.getByText(/to put right first/)).toBeVisible();
  await page.getByLabel("Name").first().fill("Wren");
  await page.reload();
  await page.getByLabel("Settings list as text").fill(readFileSync(heron, "utf8"));
  await page.getByRole("button", { name: "Read what is pasted" }).click();
  await page.getByRole("button", { name: "Look at the 40 settings" }).click();
  await page.getByRole("button", { name: "Go on with it" }).click();
  await expect(page.getByLabel("Name").first()).toHaveValue("Wren");
});

test("as found by two voices: big figures, Enter only", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Settings sheet").click();
  await page.getByRole("tab", { name: "By voice" }).click();
  const code = page.getByTestId("voice-code");
  const say = async (text: string) => {
    await page.keyboard.type(text);
    await page.keyboard.press("Enter");
  };
  await page.getByLabel("1A reads").focus();
  await say("plain words");
  await expect(page.getByText("Choose who reads aloud first.")).toBeVisible();
  await page.getByLabel("Who reads aloud").selectOption({ label: "TK T. Kvernes" });
  await page.getByLabel("1A reads").press("Enter");
  await expect(code).toHaveText("1B");
  await say("60 Hz");
  await expect(code).toHaveText("1C");
  await say(""); // left out
  await expect(code).toHaveText("1D");
  await say("full");
  await expect(code).toHaveText("1E");
  await say("many"); // cannot be read: kept and marked
  await expect(code).toHaveText("1F");
  await expect(page.getByText("✕ many")).toBeVisible();
  await page.keyboard.press("ArrowUp");
  await expect(code).toHaveText("1E");
  await say("0");
  await expect(page.getByText("4 / 138 heard")).toBeVisible();
  // A page that is left in the middle goes on where it stood.
  await page.keyboard.type("cur");
  await page.reload();
  await page.getByRole("tab", { name: "By voice" }).click();
  await expect(code).toHaveText("1F");
  await expect(page.getByLabel("1F reads")).toHaveValue("cur");
  await page.getByRole("button", { name: "Save as found", exact: true }).click();
  await expect(page.getByText("Saved as found.")).toBeVisible();
  await page.getByRole("tab", { name: /^All/ }).click();
  await page.getByRole("button", { name: /Changed from delivery 1/ }).click();
  await expect(page.locator('tr[data-setting="1B"]')).toContainText("60 Hz");
  await rail(page, "Keep").click();
  await expect(page.getByRole("row").filter({ hasText: "As found" })).toContainText("read aloud and typed");
});

test("at the keypad: the order of keys, what is refused now, and what was entered is not yet read", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Settings sheet").click();
  await page.getByRole("tab", { name: "At the keypad" }).click();
  const stops = page.locator("[data-stop]");
  await expect(stops.first()).toBeVisible();
  const before = await stops.count();
  expect(before).toBeGreaterThan(3);
  const first = (await stops.first().getAttribute("data-stop"))!;
  await page.getByRole("button", { name: `${first} entered` }).click();
  await expect(stops).toHaveCount(before - 1);
  await expect(page.getByText("1 entered and to be read back.")).toBeVisible();
  await expect(page.getByLabel("The keypad stands at")).toHaveValue(first);
  await page.getByRole("button", { name: "remote" }).click();
  await expect(page.getByText(`Refused now: ${before - 1}`)).toBeVisible();
  await page.getByRole("button", { name: "here" }).click();
  await page.getByRole("tab", { name: /^To enter/ }).click();
  await expect(line(page, first)).toContainText("entered, to be read back");
});

test("a setting is left as delivered on purpose, which is not the same as never looked at", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Settings sheet").click();
  await page.getByRole("tab", { name: /^All/ }).click();
  const row = page.locator('tr[data-setting="9A"]');
  await expect(row).toContainText("never looked at");
  await page.getByRole("button", { name: "Leave 9A as delivered" }).click();
  await expect(row).toContainText("left so on purpose RH");
  await expect(page.getByRole("button", { name: /Left so 1/ })).toBeVisible();
});

/** A drive made by hand with a stand-in at its address. */
async function made(page: Page, url: string, address: string, family = "Tarn") {
  await page.goto(url);
  await page.getByLabel("Place", { exact: true }).fill("Works");
  await page.getByLabel("Your initials").fill("RH");
  await page.getByRole("radio", { name: /^Simulated/ }).check();
  await page.getByRole("button", { name: "Begin" }).click();
  await page.getByRole("button", { name: "New drive" }).click();
  await page.getByRole("dialog").getByLabel("Tag").fill("X-1");
  if (family) await page.getByRole("dialog").getByLabel("Drive family").selectOption(family);
  await page.getByRole("button", { name: "Begin with the plate" }).click();
  await field(page, "rating.current").fill("16");
  await rail(page, "Signal").click();
  await field(page, "intent.command_source").selectOption("terminals");
  await rail(page, "Settings sheet").click();
  await field(page, "link.address").fill(address);
  await field(page, "link.address").blur();
  await saved(page);
}

test("a setting that could start motion is refused, and written once the conditions are met", async ({ page, empty, start }) => {
  const closed = await start("bench", "--dialect", "Tarn", "--listen", "127.0.0.1:0");
  const open = await start("bench", "--dialect", "Tarn", "--listen", "127.0.0.1:0", "--channels-open");
  await made(page, empty.url, closed.url);
  const write = async () => {
    await line(page, "8A").click();
    await page.getByRole("button", { name: "Write and read back" }).click();
    const dialog = page.getByRole("dialog");
    const send = dialog.getByRole("button", { name: "Write terminals to 8A" });
    await expect(send).toBeDisabled();
    await dialog.getByRole("checkbox").check();
    await send.click();
  };
  await write();
  await expect(page.getByRole("alert")).toContainText("open both torque-off channels first");
  await page.getByRole("tab", { name: "Sent" }).click();
  await expect(page.getByText("Nothing was written to this drive over a link.")).toBeVisible();
  await page.getByRole("tab", { name: /^To enter/ }).click();
  await page.getByRole("button", { name: /drive at/ }).click();
  await field(page, "link.address").fill(open.url);
  await field(page, "link.address").blur();
  await saved(page);
  await write();
  await expect(line(page, "8A")).toContainText("holds");
  await page.getByRole("tab", { name: "Sent" }).click();
  const sent = page.getByRole("row").filter({ hasText: "Run command from" });
  await expect(sent).toContainText("✓ held");
  await expect(sent).toContainText("area clear: RH");
  await expect(sent).toContainText(`${open.url} unit 1 reg 801 ← 1`);
});

test("modules in the drive, speeds as it counts them, and what a power-off would take back", async ({ page, empty, start }) => {
  test.slow();
  const bench = await start("bench", "--dialect", "Voe", "--listen", "127.0.0.1:0", "--channels-open");
  await made(page, empty.url, bench.url, "Voe");
  await rail(page, "Signal").click();
  await field(page, "intent.speed_unit").selectOption({ label: "r/min" });
  await saved(page);
  await rail(page, "Control").click();
  for (const [path, value] of [
    ["wiring.command", "two-wire"],
    ["wiring.reference", "presets"],
    ["wiring.safety", "jumper"],
    ["wiring.logic", "source"],
    ["wiring.supply", "outside"],
  ] as const)
    await field(page, path).selectOption(value);
  for (const tick of ["reverse", "jog", "reset", "interlock", "hand"]) await field(page, `wiring.${tick}`).check();
  await expect(page.getByText("No input is left for").first()).toBeVisible();
  await field(page, "wiring.modules").selectOption({ label: "V-IO, more terminals" });
  await expect(page.getByText("No input is left for")).toHaveCount(0);
  await expect(page.getByText("common of the inputs of module V-IO").first()).toBeVisible();
  // Written over the link, kept on command.
  await rail(page, "Settings sheet").click();
  for (const code of ["2004h:07", "2000h:03"]) {
    await line(page, code).click();
    await page.getByRole("button", { name: "Write and read back" }).click();
    await expect(line(page, code)).toContainText("holds");
  }
  await expect(line(page, "2004h:07")).toContainText("r/min");
  const notKept = page.getByRole("region", { name: "Not kept yet" });
  await expect(notKept).toContainText("A power-off takes back 2: 2004h:07, 2000h:03. Set 1010h:01");
  await page.getByRole("tab", { name: "At the keypad" }).click();
  await expect(page.getByText("Last, leave the edit: press Index twice; it shows the speed in percent. Nothing blinks")).toBeVisible();
  await notKept.getByRole("button", { name: "Keep over the link" }).click();
  await expect(notKept).toHaveCount(0);
});

test("a drive that restarts in the middle of a write: not known, until it is read", async ({ page, empty, start }) => {
  test.slow();
  const bench = await start(
    "bench",
    "--dialect",
    "Tarn",
    "--listen",
    "127.0.0.1:0",
    "--channels-open",
    "--reboot-on-write",
    "1",
    "--reboot-takes",
    "--reboot-for",
    "4s",
  );
  await made(page, empty.url, bench.url);
  await line(page, "8A").click();
  await page.getByRole("button", { name: "Write and read back" }).click();
  await page.getByRole("dialog").getByRole("checkbox").check();
  await page.getByRole("dialog").getByRole("button", { name: "Write terminals to 8A" }).click();
  await expect(page.getByRole("alert")).toContainText("could not be read back");
  await expect(line(page, "8A")).toContainText("not known");
  await expect(page.getByText("8A may be half written").first()).toBeVisible();
  await page.getByRole("tab", { name: "Sent" }).click();
  await expect(page.getByRole("row").filter({ hasText: "Run command from" })).toContainText("not known");
  await page.getByRole("tab", { name: /^To enter/ }).click();
  await expect(async () => {
    await page.getByRole("button", { name: "Read from drive" }).click();
    await expect(page.getByText("138 settings read.")).toBeVisible({ timeout: 3000 });
  }).toPass();
  await expect(line(page, "8A")).toContainText("holds");
});

test("what answers at an address is asked first, and fills the label in", async ({ page, empty, start }) => {
  const bench = await start("bench", "--dialect", "Voe", "--size", "VOE.M.4.150", "--listen", "127.0.0.1:0");
  await made(page, empty.url, bench.url, "");
  await page.getByRole("button", { name: /drive at/ }).click();
  await page.getByRole("button", { name: "What answers?" }).click();
  await expect(page.getByRole("dialog")).toContainText("VOE.M.4.150");
  await page.getByRole("button", { name: "Take family, type and firmware" }).click();
  await rail(page, "Plate").click();
  await expect(field(page, "rating.dialect")).toHaveValue("Voe");
  await expect(field(page, "rating.type")).toHaveValue("VOE.M.4.150");
  // 16 A does not go with this type.
  await expect(page.getByText("The rated current does not go with the type")).toBeVisible();
  await field(page, "rating.current").fill("15");
  await expect(page.getByText("The rated current does not go with the type")).toHaveCount(0);
});

/** The newest version of a family that ships. */
async function newest(page: Page, url: string, name: string): Promise<number> {
  const all = (await (await page.request.get(`${url}/api/families`)).json()) as { name: string; version: string }[];
  return Number(all.find((f) => f.name === name)!.version);
}

test("a newer family file shows its effect before a drive takes it, and undo brings the old one back", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "EF-04");
  await rail(page, "Plate").click();
  await expect(page.getByText("Planned with Tarn 1.")).toBeVisible();
  const now = await newest(page, demo.url, "Tarn");
  await page.getByRole("button", { name: `see what ${now} would change` }).click();
  await expect(page.getByRole("dialog")).toContainText("Nothing touches this drive's values");
  await page.getByRole("button", { name: `Take version ${now} for this drive` }).click();
  await expect(page.getByText(`Planned with Tarn ${now}.`)).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(page.getByText("Planned with Tarn 1.")).toBeVisible();
});

test("a family is looked up, changed and kept as the next version; drives stay with theirs", async ({ page, demo }) => {
  await openAs(page, demo.url);
  const was = await newest(page, demo.url, "Brae");
  await page.goto(`${demo.url}/families/Brae`);
  for (const [tab, text] of [
    ["Recipes", "E 99 started over"],
    ["Settings", "motor.current"],
    ["Terminals", "P24"],
    ["Faults", "E 22"],
    ["Sizes", "BR18C460"],
  ] as const) {
    await page.getByRole("tab", { name: tab }).click();
    await expect(page.getByText(text).first()).toBeVisible();
    await axe(page).then((r) => expect(r.violations.map((v) => `${tab} ${v.id} ${v.nodes[0]?.target}`)).toEqual([]));
  }
  await page.getByRole("tab", { name: "Faults" }).click();
  await page.getByLabel("Search the faults").fill("insulation");
  await expect(page.getByRole("row")).toHaveCount(2);
  await page.getByRole("link", { name: "Change" }).click();
  await page.getByRole("button", { name: "Change limit.current", exact: true }).click();
  const put = (name: RegExp, text: string) => page.getByRole("textbox", { name }).fill(text);
  await put(/^Step/, "1");
  await expect(page.getByText(/wanted: a decimal on the grid/).first()).toBeVisible();
  await put(/^Lowest/, "1");
  await put(/^Highest/, "400");
  await put(/^Delivered/, "11");
  await page.getByRole("button", { name: "Keep this family" }).click();
  await expect(page.getByRole("heading", { level: 1, name: `Brae ${was + 1}` })).toBeVisible();
  await page.getByRole("tab", { name: "Recipes" }).click();
  await expect(page.getByText("E 99 started over").first()).toBeVisible();
  await page.getByRole("link", { name: "Tin Gate: Yard" }).click();
  await openDrive(page, "HM-01");
  await rail(page, "Plate").click();
  await page.getByRole("button", { name: `see what ${was + 1} would change` }).click();
  // 150 % of 55 A is 82.5, down
  await expect(page.getByRole("dialog").getByRole("row").filter({ hasText: "limit.current" }).first()).toContainText("82 A");
  await page.getByRole("button", { name: `Stay with ${was}` }).click();
});

test("a workbook as people keep it becomes a family, with what was read from where", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await page.goto(`${demo.url}/families/new`);
  await page.getByLabel("Settings list", { exact: true }).setInputFiles(new URL("./lists/gannet.xlsx", import.meta.url).pathname);
  await expect(page.getByText("12 rows, 5 settings.")).toBeVisible();
  await expect(page.getByText("Hidden in the workbook, and read only if you choose it: Old.")).toBeVisible();
  await expect(page.getByText("joined to sheet Settings, row 10: 1: ramp")).toBeVisible();
  await expect(page.getByLabel("Sheet of the workbook")).toHaveValue("Settings");
  await axe(page).then((r) => expect(r.violations.map((v) => v.id)).toEqual([]));
  await page.getByRole("button", { name: "Look at the 5 settings" }).click();
  await page.getByLabel("Name").first().fill("Gannet");
  await page.getByRole("button", { name: "Change M-01" }).click();
  await expect(page.getByText("Read from sheet Settings, row 6.")).toBeVisible();
  await expect(page.getByText("unit: from “Motor rated power [kW]”")).toBeVisible();
  await page.getByRole("button", { name: "Keep this family" }).click();
  await expect(page.getByRole("heading", { level: 1, name: "Gannet 1" })).toBeVisible();
  await page.goto(demo.url);
  await openDrive(page, "BE-01");
  await rail(page, "Plate").click();
  await field(page, "rating.dialect").selectOption("Gannet");
  await rail(page, "Settings sheet").click();
  await expect(line(page, "M-02")).toContainText("8.1 A");
  await expect(line(page, "M-02")).toContainText("from a list, gannet.xlsx, sheet Settings, row 7, by");
  await reading(page, "M-02").fill("8.1");
  await reading(page, "M-02").press("Enter");
  await expect(line(page, "M-02")).toContainText("holds");
  await expect(line(page, "M-02")).not.toContainText("this drive has not shown it yet");
});

test("a device description becomes a family, and a plan a device configuration", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await page.goto(`${demo.url}/families/new`);
  await page.getByLabel("Settings list", { exact: true }).setInputFiles(new URL("./lists/gannet.eds", import.meta.url).pathname);
  await expect(page.getByText("6040 Controlword: controlword: a command, never a setting")).toBeVisible();
  await expect(page.getByRole("row", { name: /6046h:02/ })).toContainText("the drive profile");
  await page.goto(demo.url);
  await openDrive(page, "SP-03");
  await rail(page, "Settings sheet").click();
  await page.getByRole("button", { name: "DCF…" }).click();
  await page.getByLabel("The drive's number on the bus").fill("130");
  await expect(page.getByText("wanted: 1 to 127")).toBeVisible();
  await expect(page.getByRole("link", { name: "Save the file" })).toHaveCount(0);
  await page.getByLabel("The drive's number on the bus").fill("12");
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "Save the file" }).click()]);
  const text = readFileSync(await file.path(), "utf8");
  expect(text).toContain("NodeID=12");
  expect(text).toMatch(/\[6075\]\r\nParameterName=Motor rated current[\s\S]*?ParameterValue=\d+/);
});

test("one search over all families, by the word that comes to mind", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await page.keyboard.press("Control+k");
  await page.getByRole("combobox", { name: "Find or do" }).fill("decel time");
  await page.getByRole("option", { name: /in the drive families/ }).click();
  await expect(page.getByRole("row", { name: /Tarn.*7B.*Fall time/ })).toContainText("DD-02");
  await expect(page.getByRole("row", { name: /Voe.*6049h:02/ })).toBeVisible();
  await page.getByLabel("Find in all families").fill("what does P4 mean");
  await expect(page.getByRole("row", { name: /fault Tarn P4 DC link too high/ })).toBeVisible();
  await axe(page).then((r) => expect(r.violations.map((v) => v.id)).toEqual([]));
  await page
    .getByRole("row", { name: /fault Tarn P4/ })
    .getByRole("link", { name: "Tarn" })
    .click();
  await expect(page.getByRole("tab", { name: "Faults" })).toHaveAttribute("aria-selected", "true");
  await expect(page.getByRole("region", { name: "Faults" })).toContainText("DC link too high");
});

test("a page of the manual stands beside the form as a picture, and the row says what it was typed from", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await page.goto(`${demo.url}/families/Tarn/edit`);
  await page.getByLabel("Picture beside…").setInputFiles(new URL("../docs/screenshots/plate.png", import.meta.url).pathname);
  const picture = page.getByRole("img", { name: "plate.png, to type settings from" });
  const wide = (await picture.boundingBox())!.width;
  await page.getByRole("button", { name: "Larger" }).click();
  await expect.poll(async () => (await picture.boundingBox())!.width).toBeGreaterThan(1.4 * wide);
  await axe(page).then((r) => expect(r.violations.map((v) => v.id)).toEqual([]));
  await page.getByRole("button", { name: "+ another setting" }).click();
  await expect(page.getByText("Read from picture plate.png.")).toBeVisible();
  const form = page.getByRole("complementary");
  await form.getByRole("textbox", { name: /^Code/ }).fill("9ZZ");
  await form.getByRole("textbox", { name: /^Name/ }).fill("Horn");
  await page.getByLabel("Version").fill("99");
  await page.getByRole("button", { name: "Keep this family" }).click();
  await expect(page.getByRole("heading", { level: 1, name: "Tarn 99" })).toBeVisible();
  await page.getByRole("link", { name: "Change" }).click();
  await page.getByRole("button", { name: "Change 9ZZ" }).click();
  await expect(page.getByText(/Row typed, picture plate\.png, by/)).toBeVisible();
});

test("what a family says beside its settings is typed and pasted into tables, and is there to be looked up", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await page.goto(`${demo.url}/families/new`);
  await page
    .getByLabel("Settings list as text")
    .fill("code;name;unit;min;max;default\nA1;Motor current;A;0.1;90.0;8.0\nA2;Motor power;kW;0.1;15.0;4.0");
  await page.getByRole("button", { name: "Read what is pasted" }).click();
  await page.getByRole("button", { name: "Look at the 2 settings" }).click();
  await page.getByLabel("Name").first().fill("Gannet");
  const what = page.getByLabel("What to change");
  await what.selectOption("faults");
  // Cells out of a spreadsheet, one of them of no known class: told at its cell, the rest stays.
  await page.getByLabel("code, row 1", { exact: true }).evaluate((el) => {
    const data = new DataTransfer();
    data.setData("text/plain", "E7\tEarth fault\tearth-fault\tfault\treset\tthe motor cable\nE8\tToo hot\tweather\tfault\treset\t\n");
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(page.getByLabel("text, row 2", { exact: true })).toHaveValue("Too hot");
  await expect(page.getByText("Row 2, class: got weather")).toBeVisible();
  await expect(page.getByRole("button", { name: "Keep this family" })).toBeDisabled();
  await page.getByLabel("class, row 2", { exact: true }).selectOption("drive-temperature");
  await expect(page.getByText("Row 2, class: got weather")).toHaveCount(0);
  await axe(page).then((r) => expect(r.violations.map((v) => v.id)).toEqual([]));
  await what.selectOption("ratings");
  for (const [column, text] of [
    ["type begins", "GN-09"],
    ["phases", "3"],
    ["line low, V", "380"],
    ["line high, V", "480"],
    ["power, kW", "4"],
    ["heavy, A", "9"],
    ["wait, min", "5"],
  ] as const)
    await page.getByLabel(`${column}, row 1`, { exact: true }).fill(text);
  await what.selectOption("keypad");
  await page.getByLabel("Key that keeps").fill("Enter");
  await page.getByLabel("Kept by").selectOption("hold");
  await page.getByRole("button", { name: "Keep this family" }).click();
  await expect(page.getByRole("heading", { level: 1, name: "Gannet 1" })).toBeVisible();
  await page.getByRole("tab", { name: "Faults" }).click();
  await expect(page.getByRole("region", { name: "Faults" })).toContainText("the motor cable");
  await page.getByRole("tab", { name: "Sizes" }).click();
  await expect(page.getByRole("region", { name: "Sizes" })).toContainText("GN-09");
  // Opened again, it is all there to be changed.
  await page.getByRole("link", { name: "Change" }).click();
  await what.selectOption("faults");
  await expect(page.getByLabel("class, row 2", { exact: true })).toHaveValue("drive-temperature");
  await page.getByRole("button", { name: "Take row 2 away" }).click();
  await expect(page.getByLabel("code, row 2", { exact: true })).toHaveValue("");
});

test("two people change one family: the second takes the first's rows in, and chooses where both changed", async ({
  page,
  context,
  demo,
}) => {
  await openAs(page, demo.url);
  const was = await newest(page, demo.url, "Brae");
  const edit = async (p: Page, code: string, fields: [RegExp, string][]) => {
    await p.getByRole("button", { name: `Change ${code}`, exact: true }).click();
    for (const [name, text] of fields) await p.getByRole("form").getByRole("textbox", { name }).fill(text);
  };
  await page.goto(`${demo.url}/families/Brae/edit`);
  await edit(page, "limit.current", [[/^Highest/, "320.0"]]);
  await edit(page, "motor.current", [[/^Name/, "Current of the motor"]]);
  // Somebody else keeps a version first.
  const other = await context.newPage();
  await other.goto(`${demo.url}/families/Brae/edit`);
  await edit(other, "limit.current", [[/^Highest/, "350.0"]]);
  await edit(other, "motor.voltage", [[/^Name/, "Voltage of the motor"]]);
  await other.getByRole("button", { name: "Keep this family" }).click();
  await expect(other.getByRole("heading", { level: 1, name: `Brae ${was + 1}` })).toBeVisible();
  await other.close();
  await page.getByRole("button", { name: "Keep this family" }).click();
  await expect(page.getByText(/wanted?: a version that is not taken/i)).toBeVisible();
  const newer = page.getByRole("region", { name: "A newer version" });
  await expect(newer).toContainText(`Version ${was + 1} was kept meanwhile`);
  await newer.getByRole("button", { name: "Take its changes in" }).click();
  await expect(newer).toContainText("1 was changed in both");
  await expect(newer).toContainText("Setting, limit.current, highest");
  await axe(page).then((r) => expect(r.violations.map((v) => v.id)).toEqual([]));
  await newer.getByRole("button", { name: "take 350.0" }).click();
  await expect(newer.getByRole("listitem")).toHaveCount(0);
  await page.getByRole("button", { name: "Keep this family" }).click();
  await expect(page.getByRole("heading", { level: 1, name: `Brae ${was + 2}` })).toBeVisible();
  await page.getByRole("tab", { name: "Settings" }).click();
  for (const text of ["Voltage of the motor", "Current of the motor"]) await expect(page.getByText(text).first()).toBeVisible();
  await expect(
    page
      .getByRole("row")
      .filter({ hasText: /^limit\.current/ })
      .first(),
  ).toContainText("350.0");
});

test("tables within tables: a switch that is renamed keeps its positions, a body is described, what a setting does is chosen", async ({
  page,
  demo,
}) => {
  await openAs(page, demo.url);
  await page.goto(demo.url + "/families/Tarn/edit");
  const what = page.getByLabel("What to change");
  await what.selectOption("switches");
  await page.getByLabel("name, row 1", { exact: true }).fill("SW1");
  await what.selectOption("switches.positions");
  await expect(page.getByLabel("switch, row 1", { exact: true })).toHaveValue("SW1");
  await expect(page.getByLabel("switch, row 2", { exact: true })).toHaveValue("SW1");
  await expect(page.getByLabel("switch, row 3", { exact: true })).toHaveValue("B");
  await page.getByLabel("switch, row 5", { exact: true }).fill("C");
  await page.getByLabel("sign, row 5", { exact: true }).fill("x");
  await page.getByLabel("means, row 5", { exact: true }).fill("no switch");
  await expect(page.getByText("Wanted: the switch as it stands in its own table.")).toBeVisible();
  await page.getByRole("button", { name: "Take row 5 away" }).click();
  await what.selectOption("terminals"); // what names it elsewhere is told, and not guessed
  await expect(page.getByText("Wanted: the name of a hardware switch.")).toBeVisible();
  await page.getByLabel("switch, row 10", { exact: true }).fill("SW1");
  await what.selectOption("bodies.covers");
  await page.getByLabel("frame, row 6", { exact: true }).fill("F1");
  await page.getByLabel("name, row 6", { exact: true }).fill("the blank");
  await page.getByLabel("back before, row 6", { exact: true }).selectOption("supply");
  await what.selectOption("");
  await page.getByRole("button", { name: "Change 5M" }).click();
  await page.getByLabel("It does").selectOption("flying-start");
  await expect(page.getByText("wanted: once, and 9T does it")).toBeVisible();
  await page.getByLabel("It does").selectOption("earth-fault");
  await expect(page.getByRole("status").getByText("to put right first")).toHaveCount(0);
  await page.getByRole("button", { name: "Keep this family" }).click();
  await expect(page.getByRole("heading", { level: 1, name: "Tarn 10" })).toBeVisible();
  const kept = (await (await page.request.get(demo.url + "/api/families/Tarn/draft")).json()) as {
    rows: { code: string; drives?: string }[];
    parts: { key: string; rows: string[][] }[];
  };
  expect(kept.rows.find((r) => r.code === "5M")?.drives).toBe("earth-fault");
  const table = (key: string) => kept.parts.find((p) => p.key === key)?.rows ?? [];
  expect(table("switches.positions").map((r) => r[0])).toEqual(["SW1", "SW1", "B", "B"]);
  expect(table("bodies.covers").filter((r) => r[0] === "F1").length).toBe(2);
});
