import { axe, expect, field, openAs, openDrive, rail, saved, test } from "./tingate";
import { Unknown } from "./unknown";

test("registers nobody has told are learnt by one change at the keypad, the next by one reading more; nothing is written", async ({
  page,
  demo,
}) => {
  test.setTimeout(150_000);
  const drive = await new Unknown().start();
  await openAs(page, demo.url);
  await openDrive(page, "DD-02");
  await rail(page, "Settings sheet").click();
  await page.getByRole("button", { name: /drive at/ }).click();
  await field(page, "link.address").fill(drive.address);
  await field(page, "link.address").blur();
  await saved(page);
  await page.goto(`${demo.url}/families/new`);
  await page
    .getByLabel("Settings list as text")
    .fill("code;name;unit;min;max;default\nA1;Rise;s;0.1;600.0;5.0\nA2;Lower limit;Hz;-400.00;400.00;0.00");
  await page.getByRole("button", { name: "Read what is pasted" }).click();
  await page.getByRole("button", { name: "Look at the 2 settings" }).click();
  await page.getByLabel("Name").first().fill("Knot");
  const learn = page.getByRole("region", { name: "Learn at a drive" });
  const open = async () => {
    await page.getByRole("button", { name: "Find its register at a drive…" }).click();
    await learn.getByLabel("Drive").selectOption("DD-02");
  };
  await open();
  // A line that a controller uses is asked for with its owner's word only.
  await learn.getByLabel("A controller uses this line").check();
  await expect(learn.getByRole("button", { name: "Look which registers answer" })).toBeDisabled();
  await expect(learn.getByText("5 min")).toBeVisible();
  await learn.getByLabel("A controller uses this line").uncheck();
  await learn.getByLabel("From register").fill("9");
  await learn.getByLabel("To", { exact: true }).fill("5");
  await learn.getByRole("button", { name: "Look which registers answer" }).click();
  await expect(learn.getByText(/got 9 to 5, want 0 to 65535/)).toBeVisible();
  await learn.getByLabel("From register").fill("0");
  await learn.getByLabel("To", { exact: true }).fill("1100");
  await learn.getByRole("button", { name: "Look which registers answer" }).click();
  // Ended, and gone on with: nothing that was learnt is asked again.
  await expect(learn.getByText(/registers answer in/)).toBeVisible({ timeout: 20_000 });
  await learn.getByRole("button", { name: "stop" }).click();
  await page.reload();
  await page.getByLabel("Settings list as text").fill("code;name\nX;Y");
  await page.getByRole("button", { name: "Read what is pasted" }).click();
  await page.getByRole("button", { name: "Look at the 1 settings" }).click();
  await page.getByRole("button", { name: "Go on with it" }).click();
  await page.getByRole("button", { name: "Change A1" }).click();
  await open();
  await learn.getByRole("button", { name: "go on" }).click();
  await expect(learn.getByText(/145 registers answer in 3 runs/)).toBeVisible({ timeout: 60_000 });
  const idle = learn.getByRole("button", { name: "stop" });
  if (await idle.isVisible()) await idle.click();
  // The first setting: read twice, changed, read again.
  await learn.getByLabel("The keypad shows").fill("5.0");
  drive.regs.set(305, 50);
  await learn.getByRole("button", { name: "Read twice" }).click();
  const found = page.getByRole("region", { name: "What was found" });
  await expect(learn.getByRole("button", { name: "Read again" })).toBeVisible({ timeout: 20_000 });
  drive.regs.set(305, 175);
  await learn.getByLabel("Changed there, it shows").fill("17,5");
  await learn.getByRole("button", { name: "Read again" }).click();
  await expect(found).toContainText("Register 305, 10 to one shown", { timeout: 20_000 });
  await expect(found).toContainText("50 → 50 → 175");
  await expect(found).toContainText("2 move by themselves");
  await axe(page).then((r) => expect(r.violations.map((v) => v.id)).toEqual([]));
  await found.getByRole("button", { name: "take" }).click();
  await expect(page.getByLabel("Register", { exact: true })).toHaveValue("305");
  await expect(page.getByText(/register learnt at DD-02, 5.0 and 17,5 at the keypad/)).toBeVisible();
  // The next one: what was read before is the reading before it. 32 bits, signed, the low word first.
  await page.getByRole("button", { name: "Change A2" }).click();
  await open();
  await learn.getByLabel("The keypad shows").fill("0");
  // Read before the change was kept: it counts as a reading before it.
  const put = (v: number) => (drive.regs.set(1010, v & 0xffff), drive.regs.set(1011, (v >> 16) & 0xffff));
  await learn.getByLabel("Changed there, it shows").fill("-35");
  await learn.getByRole("button", { name: "Read again" }).click();
  await expect(found).toContainText("No register follows what was shown", { timeout: 20_000 });
  put(-35000);
  await learn.getByLabel("Changed there, it shows").fill("-35.00");
  await learn.getByRole("button", { name: "Read again" }).click();
  await expect(found).toContainText(/Register 1010, 32 bits signed, low word first/, { timeout: 20_000 });
  expect(drive.writes).toBe(0);
  drive.stop();
});
