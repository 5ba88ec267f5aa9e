// Takes the pictures of docs/screenshots from the demo plant: one of each main view.
import { chromium } from "@playwright/test";
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const root = new URL("..", import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), "tingate-shots-"));
const program = spawn(join(root, "bin/tingate"), [
  "demo",
  "--data",
  folder,
  "--listen",
  "127.0.0.1:0",
  "--clock",
  "2026-11-25T10:00:00Z",
  "--clock-rate",
  "60",
]);
const base = await new Promise((done) => program.stdout.on("data", (d) => done(d.toString().split("\n")[0])));
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
});
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, locale: "en-GB", timezoneId: "UTC" })).newPage();
await page.goto(base);
await page.getByRole("dialog").getByRole("button", { name: "RH" }).click();
const shot = (name) => page.screenshot({ path: join(root, "docs/screenshots", `${name}.png`) });
const open = async (tag) => {
  await page.goto(base);
  await page.getByRole("list", { name: "Drives" }).getByRole("link").filter({ hasText: tag }).click();
  await page.getByRole("navigation", { name: "Gates" }).waitFor();
};
const go = async (name) => {
  await page.getByRole("navigation", { name: "Gates" }).getByRole("link", { name }).click();
  await page.getByRole("heading", { level: 1, name }).waitFor();
};
await page.getByRole("list", { name: "Drives" }).getByRole("link").filter({ hasText: "HM-01" }).hover();
await shot("yard");
await open("DD-02");
await shot("plate");
await open("EF-04");
await go("Span");
await page.getByRole("slider", { name: "Rise, seconds" }).waitFor();
await page.getByRole("region", { name: "Rise and fall" }).scrollIntoViewIfNeeded();
await page.waitForTimeout(600);
await shot("span");
await open("DD-02");
await go("Signal");
await shot("signal");
await go("Settings sheet");
await page.getByRole("button", { name: "Read and save as found" }).click();
await page.getByText("Saved as found.").waitFor();
await page.locator("tr[data-code='4D']", { hasText: "✕" }).waitFor();
await page.locator("[data-read='4D']").focus();
await shot("sheet");
await open("SP-03");
await go("Settings sheet");
await page.getByRole("tab", { name: "At the keypad" }).click();
await page.locator("[data-stop]").first().waitFor();
await shot("keypad");
await page.goto(`${base}/families/Voe`);
await page.getByText("Return to delivery state").waitFor();
await shot("family");
await page.goto(`${base}/families/new`);
await page.getByLabel("Settings list", { exact: true }).setInputFiles(join(root, "e2e/lists/heron.csv"));
await page.getByRole("button", { name: /Look at the/ }).click();
await page.getByRole("button", { name: "Change L1" }).click();
await shot("family-draft");
await open("WN-01");
await go("Match");
await shot("match");
await go("Tune");
await page.locator("[data-check='tune/kind/chosen']").waitFor();
await shot("tune");
await go("Turn");
await page.getByRole("button", { name: "Set up the bench" }).click();
await page.getByRole("button", { name: "Mains on" }).click();
await page.getByText("standing by").waitFor();
await page.getByRole("button", { name: /^Bump forward/ }).click();
await page.waitForTimeout(1500);
await shot("turn");
await open("SP-03");
await go("Power");
await shot("power");
await go("Control");
await page.getByRole("region", { name: "Wires", exact: true }).waitFor();
await shot("control");
await go("Stop");
await page.getByRole("region", { name: "Where it can be" }).waitFor();
await page.locator('li[data-test="both/S2"] button').first().click();
await page.locator('li[data-test="both/S2"] li[data-step="3"] button').first().click();
await page.getByRole("heading", { level: 1, name: "Stop" }).scrollIntoViewIfNeeded();
await page.waitForTimeout(600);
await shot("stop");
await go("Bench");
await page.getByRole("button", { name: "Set up the bench" }).click();
await page.getByRole("switch", { name: /^Mains/ }).click();
await page.waitForTimeout(1500);
await page.getByLabel("Analog input").fill("7.8");
await page.getByRole("switch", { name: /^X1 / }).click();
await page.waitForTimeout(6000);
await shot("bench");
await open("DD-02");
await go("Dead");
await page.getByRole("button", { name: /^Confirm: The dangers/ }).click();
await go("Wake");
await page.getByRole("button", { name: "It shows Ready" }).click();
await page.getByRole("status").filter({ hasText: "Ready" }).waitFor();
await shot("wake");
await go("Dead");
for (const lock of ["Panel P1", "Control supply"])
  await page.getByRole("button", { name: new RegExp(`Opened and locked by me: ${lock}`) }).click();
await page.getByRole("timer").waitFor();
for (const what of ["No other source", "Do-not-switch-on", "Gloves", "Shaft blocked"])
  await page.getByRole("button", { name: new RegExp(`Confirm: ${what}`) }).click();
await page
  .getByRole("group", { name: /DC terminals/ })
  .getByRole("button", { name: "can be reached", exact: true })
  .click();
await page.getByLabel("Meter", { exact: true }).selectOption({ label: "M5, two-pole tester" });
const type = async (key, value) => {
  await page.locator(`[data-measure="${key}"]`).fill(value);
  await page.locator(`[data-measure="${key}"]`).press("Enter");
  await page.locator(`li[data-check="${key}"]`, { hasText: "RH" }).waitFor();
};
await type("dead/wait/minutes", "5");
await page.getByLabel("Range it stands on").selectOption("1000 V DC");
await type("dead/meter/before", "62.4");
await page.getByLabel("Range it stands on").selectOption("1000 V AC");
await type("dead/meter/before-ac", "231");
await page.getByLabel("Range it stands on").selectOption("1000 V DC");
for (const v of ["418", "301", "216"]) {
  await type("dead/measure/dc-link", v);
  await page.waitForTimeout(1500); // of the program's clock 90 s
}
await shot("dead");
await open("EF-04");
await go("Keep");
await shot("keep");
await go("History");
await page.getByRole("cell").first().waitFor();
await shot("history");
await browser.close();
program.kill();
rmSync(folder, { recursive: true, force: true });
