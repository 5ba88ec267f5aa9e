import AxeBuilder from "@axe-core/playwright";
import { test as base, expect, type Locator, type Page } from "@playwright/test";
import { spawn, type ChildProcess } from "node:child_process";
import { cpSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const binary = new URL("../bin/tingate", import.meta.url).pathname;
const clock = "2026-11-25T10:00:00Z";

/** The real program as a process of its own; its address is the first line of its output. */
export class Program {
  url = "";
  log = "";
  private child: ChildProcess | null = null;
  constructor(private args: string[]) {}
  async start(): Promise<this> {
    const child = spawn(binary, this.args, { stdio: ["ignore", "pipe", "pipe"] });
    this.child = child;
    child.stderr!.on("data", (d: Buffer) => (this.log += d.toString()));
    this.url = await new Promise((resolve, reject) => {
      let out = "";
      child.stdout!.on("data", (d: Buffer) => {
        out += d.toString();
        if (out.includes("\n")) resolve(out.split("\n")[0]!.trim());
      });
      child.on("exit", (code) => reject(new Error(`tingate ${this.args.join(" ")} ended with ${code}: ${this.log}`)));
    });
    return this;
  }
  async stop(signal: NodeJS.Signals = "SIGTERM") {
    const child = this.child;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    child.removeAllListeners("exit");
    const gone = new Promise((done) => child.once("exit", done));
    child.kill(signal);
    await gone;
  }
}

type Fixtures = {
  folder: string;
  start: (...args: string[]) => Promise<Program>;
  demo: Program;
  empty: Program;
  quiet: void;
};

let logs = ""; // of the programs of the test that ended last

export const test = base.extend<Fixtures, { plant: string }>({
  /** The demo plant's folder, brought in once for all tests: each works on a copy. It was made an hour before they begin. */
  plant: [
    async ({}, use) => {
      const dir = mkdtempSync(join(tmpdir(), "tingate-plant-"));
      const made = await new Program([
        "demo",
        "--data",
        join(dir, "demo"),
        "--listen",
        "127.0.0.1:0",
        "--bench",
        "127.0.0.1:0",
        "--clock",
        "2026-11-25T09:00:00Z",
      ]).start();
      await made.stop();
      await use(join(dir, "demo"));
      rmSync(dir, { recursive: true, force: true });
    },
    { scope: "worker" },
  ],
  folder: async ({}, use) => {
    const dir = mkdtempSync(join(tmpdir(), "tingate-e2e-"));
    await use(dir);
    rmSync(dir, { recursive: true, force: true });
  },
  start: async ({ context, folder: _below }, use) => {
    const all: Program[] = [];
    await use(async (...args) => {
      const p = new Program(args);
      all.push(p);
      return p.start();
    });
    // Pages first: one whose server has gone would complain of it.
    for (const p of context.pages()) await p.close();
    for (const p of all) await p.stop();
    logs = all.map((p) => p.log).join("");
  },
  demo: async ({ start, folder, plant }, use) => {
    cpSync(plant, join(folder, "demo"), { recursive: true });
    await use(
      await start(
        "demo",
        "--data",
        join(folder, "demo"),
        "--listen",
        "127.0.0.1:0",
        "--bench",
        "127.0.0.1:0",
        "--clock",
        clock,
        "--clock-rate",
        "120",
      ),
    );
  },
  empty: async ({ start, folder }, use) =>
    use(
      await start(
        "serve",
        "--simulated",
        "--data",
        join(folder, "empty"),
        "--listen",
        "127.0.0.1:0",
        "--clock",
        clock,
        "--clock-rate",
        "120",
      ),
    ),
  /** Fails on errors in the console and on any request that leaves this machine. */
  quiet: [
    async ({ page }, use, info) => {
      const wrong: string[] = [];
      page.on("console", (m) => {
        if (
          m.type() === "error" &&
          !info.annotations.some((a) => a.type === "offline" || a.type === "fails") &&
          !/status of (404|409|422)/.test(m.text())
        )
          wrong.push(`${m.text()} ${m.location().url}`);
      });
      page.on("pageerror", (e) => info.annotations.some((a) => a.type === "fails") || wrong.push(e.message));
      page.on("request", (r) => {
        const u = new URL(r.url());
        if (!["127.0.0.1", ""].includes(u.hostname)) wrong.push(`request to ${r.url()}`);
      });
      logs = "";
      await use();
      if (wrong.length > 0) console.log(logs);
      expect(wrong).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };

/** Opens the demo as RH. */
export async function openAs(page: Page, url: string, initials = "RH") {
  await page.goto(url);
  await page.getByRole("dialog").getByRole("button", { name: initials }).click();
}

export async function openDrive(page: Page, tag: string) {
  await page.getByRole("list", { name: "Drives" }).getByRole("link").filter({ hasText: tag }).click();
  await expect(page.getByRole("navigation", { name: "Gates" })).toBeVisible();
  await rail(page, "Plate").click(); // a row opens the gate that is next
}

/** Opens the rise and fall of the demo's exhaust fan at gate Span, and gives their region once it is drawn. */
export async function openRide(page: Page, url: string): Promise<Locator> {
  await openAs(page, url);
  await openDrive(page, "EF-04");
  await rail(page, "Span").click();
  const ride = page.getByRole("region", { name: "Rise and fall" });
  await expect(ride.getByText(/^Rise 29 s, fall 43 s/)).toBeVisible();
  return ride;
}

export const rail = (page: Page, name: string) => page.getByRole("navigation", { name: "Gates" }).getByRole("link", { name });
export const field = (page: Page, path: string): Locator => page.locator(`[data-field="${path}"]`);
export const reading = (page: Page, code: string): Locator => page.locator(`[data-read="${code}"]`);
export const saved = (page: Page) => expect(page.getByText("Saved as typed.")).toBeVisible();

/**
 * What axe finds against WCAG 2.2 AA. In a narrow window the foot stands over what scrolls beneath it: it is put in its place for the look,
 * so that what is judged does not hang on where the screen happens to be scrolled to.
 */
export async function axe(page: Page) {
  await page.evaluate(() => document.querySelectorAll<HTMLElement>("main footer").forEach((f) => (f.style.position = "static")));
  return new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]).analyze();
}
