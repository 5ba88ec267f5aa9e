import { expect, field, openAs, openDrive, rail, reading, saved, test } from "./tingate";

const star = /^motor\.rows\..*\.current$/;

test("a lost server keeps what was typed and sends it later", async ({ page, demo, folder }, info) => {
  info.annotations.push({ type: "offline" });
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  const port = new URL(demo.url).port;
  await demo.stop("SIGKILL");
  await field(page, "notes").fill("typed while nobody listened");
  await expect(page.getByText(/No connection: 1 entry is kept here/)).toBeVisible();
  const { Program } = await import("./tingate");
  const again = await new Program(["demo", "--data", `${folder}/demo`, "--listen", `127.0.0.1:${port}`, "--bench", "127.0.0.1:0"]).start();
  try {
    await expect(page.getByText("Saved as typed.")).toBeVisible({ timeout: 20_000 });
    await page.reload();
    await expect(field(page, "notes")).toHaveValue("typed while nobody listened");
  } finally {
    await again.stop();
  }
});

test("what was typed survives closing the page before it was sent", async ({ page, demo }, info) => {
  info.annotations.push({ type: "offline" });
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await page.route("**/api/drives/*", (r) => (r.request().method() === "PATCH" ? r.abort() : r.continue()));
  await field(page, "where").fill("kept in this browser");
  await expect(page.getByText(/No connection/)).toBeVisible();
  await page.unroute("**/api/drives/*");
  await page.reload();
  await saved(page);
  await expect(field(page, "where")).toHaveValue("kept in this browser");
});

test("two tabs: an edit shows in the other, and a conflict keeps both until one is chosen", async ({ page, demo, context }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  const other = await context.newPage();
  await other.goto(page.url());
  await field(other, "where").fill("milling");
  await saved(other);
  await page.bringToFront();
  await expect(field(page, "where")).toHaveValue("milling");

  await field(page, "notes").focus();
  await other.evaluate(() => 0);
  await field(other, "notes").fill("from the other tab");
  await saved(other);
  await page.keyboard.type("x");
  const alert = page.getByRole("alert");
  await expect(alert).toContainText("from the other tab");
  await expect(field(page, "notes")).toHaveValue(/x/);
  await alert.getByRole("button", { name: "Take theirs" }).click();
  await expect(field(page, "notes")).toHaveValue("from the other tab");
});

test("any text in any field is kept, marked and explained", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  const current = page.locator("[data-field]").and(page.locator('[data-field$=".current"][data-field^="motor.rows"]')).first();
  expect(await current.getAttribute("data-field")).toMatch(star);
  for (const text of ["=cmd|' /C calc'!A0", "15..5", "<b>16</b>", "230/400", "1,450", "名 ½ Ω", "x".repeat(500)]) {
    await current.fill(text);
    await saved(page);
    await expect(current).toHaveAttribute("aria-invalid", "true");
    await expect(page.getByRole("complementary")).toContainText("cannot be read");
  }
  await page.reload();
  await expect(current).toHaveValue("x".repeat(500));
  await current.fill("15,5 A");
  await expect(current).toHaveAttribute("aria-invalid", "false");
  await saved(page);
});

test("undo takes back one's own last visit of a field, from the keyboard", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  const speed = page.locator('[data-field^="motor.rows"][data-field$=".speed"]').first();
  await speed.fill("1500");
  await saved(page);
  await expect(page.getByRole("complementary")).toContainText("1500 r/min is the synchronous speed");
  await page.keyboard.press("Control+z");
  await expect(speed).toHaveValue("1455");
  await expect(page.getByRole("complementary")).not.toContainText("is the synchronous speed");
});

test("a finding is kept with a reason, and asks again when a value changes", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  const right = page.getByRole("complementary");
  for (let i = 0; i < 2; i++) {
    await right.getByRole("button", { name: "Keep with a reason" }).first().click();
    await page.keyboard.type("rewound in 2019, measured");
    await page.keyboard.press("Enter");
    await expect(right.getByText("Kept: rewound in 2019, measured")).toHaveCount(i + 1);
  }
  const current = page.locator('[data-field^="motor.rows"][data-field$=".current"]').first();
  await current.fill("16.8");
  await expect(right.getByText(/It was kept .* but a value it rested on has changed/).first()).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(right.getByText("Kept: rewound in 2019, measured")).toHaveCount(2);
});

test("agrees by eye is one key, and readings come from a list", async ({ page, demo }) => {
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Settings sheet").click();
  await reading(page, "4A").focus();
  await page.keyboard.press("=");
  await expect(page.locator("tr[data-code='4A']")).toContainText("holds");
  await expect(reading(page, "4B")).toBeFocused();
  await page
    .getByLabel("Readings from a list")
    .setInputFiles({ name: "list.csv", mimeType: "text/csv", buffer: Buffer.from("\uFEFFcode;value\r\n4B;400\r\n4E;1455\r\n9ZZ;1\r\n") });
  await expect(page.locator("tr[data-code='4E']")).toContainText("holds");
  await expect(page.getByRole("alert")).toContainText("9ZZ");
});

test("a full disk is told, what was typed is kept, and it is saved when there is room", async ({ page, demo }, info) => {
  info.annotations.push({ type: "offline" });
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  const problem = {
    type: "about:blank",
    title: "Insufficient Storage",
    status: 507,
    detail: "the disk is full: nothing of this was stored; make room and try again",
    errors: [],
  };
  await page.route("**/api/drives/*", (r) =>
    r.request().method() === "PATCH"
      ? r.fulfill({ status: 507, contentType: "application/problem+json", body: JSON.stringify(problem) })
      : r.continue(),
  );
  await field(page, "notes").fill("written on a full disk");
  await expect(page.getByText(/the disk is full.*1 entry is kept here/)).toBeVisible();
  await page.unroute("**/api/drives/*");
  await saved(page);
  await page.reload();
  await expect(field(page, "notes")).toHaveValue("written on a full disk");
});
