// A studio with a door: its owner comes in, invites somebody, both are on one production, and a third looks at the film.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { newProduction, openPage, startBrowser, startServer, typeLine, violations } from "./harness.mjs";

const password = "four small rolls";
let server, browser;
before(async () => {
  [server, browser] = [await startServer({ people: true }), await startBrowser()];
});
after(async () => {
  await browser.close();
  server.stop();
});

async function comeIn(page, link, name) {
  await page.goto(server.url + link);
  assert.deepEqual(await violations(page), []);
  await page.getByLabel("Your name").fill(name);
  await page.getByLabel("A password").fill(password);
  await page.getByRole("button", { name: "Come in" }).click();
  await page.waitForURL(`${server.url}/`);
}

test("two people work on one production, each seen by the other, and a link shows the film to a third", async () => {
  const ana = await openPage(browser, server);
  // Nothing but the door.
  await ana.goto(`${server.url}/casting`);
  await ana.waitForURL(/\/enter\?to=/);
  assert.deepEqual(await violations(ana), []);
  await comeIn(ana, server.door, "Ana");
  await ana.getByRole("link", { name: "People" }).click();
  await ana.getByLabel("As what").selectOption("Comments");
  await ana.getByRole("button", { name: "Make a link" }).click();
  await ana.getByLabel("The link").waitFor();
  const link = await ana.getByLabel("The link").inputValue();
  assert.deepEqual(await violations(ana), []);

  const ben = await openPage(browser, server);
  await comeIn(ben, new URL(link).pathname, "Ben");
  await newProduction(ana, server);
  await typeLine(ana, "The oven is hot, and the bread is not.");

  // Ben opens it: each sees that the other is there. What he says hangs on the line, and Ana reads it at once.
  await ben.goto(ana.url());
  await ben.locator("#stage[data-frame]").waitFor();
  await ana.getByLabel("Ben is here").waitFor();
  await ben.getByLabel("Ana is here").waitFor();
  for (let i = 0; i < 3; i++) await ben.keyboard.press("Control+ArrowRight");
  await ben.keyboard.press("q");
  await ben.locator("#remarks textarea").fill("Is it not too loud here?");
  await ben.keyboard.press("Enter");
  await ben.locator("#remarks li").filter({ hasText: "too loud" }).filter({ hasText: "“is”" }).waitFor();
  assert.deepEqual(await violations(ben), []);
  await ana.locator("#remark-count").filter({ hasText: "1" }).waitFor();
  await ana.getByRole("button", { name: "Remarks" }).click();
  const remark = ana.locator("#remarks li").filter({ hasText: "too loud" });
  await remark.filter({ hasText: "Ben" }).waitFor();
  await remark.getByRole("button", { name: "Done" }).click();
  await ben.locator("#remarks li").waitFor({ state: "detached" });
  await ana.keyboard.press("Escape");

  // He may not change anything, and is told so; nothing has changed.
  ben.expected = ["403"];
  await ben.keyboard.press("Escape");
  const title = ben.getByLabel("Title of the production");
  await title.fill("Burnt");
  await title.press("Enter");
  await ben.getByText("ask whoever owns the studio").first().waitFor();
  assert.notEqual(await ana.getByLabel("Title of the production").inputValue(), "Burnt");

  // The film goes to somebody who has no name here.
  await ana.getByRole("button", { name: "Render film" }).first().click();
  await ana.getByRole("tab", { name: "Film" }).click();
  await ana.getByRole("button", { name: "Link", exact: true }).click();
  await ana.getByLabel("Link to this film").waitFor();
  const film = await ana.getByLabel("Link to this film").inputValue();
  const guest = await openPage(browser, server);
  await guest.goto(film);
  await guest.waitForFunction(() => document.querySelector("video")?.duration > 1);
  assert.deepEqual(await violations(guest), []);
  await ana.getByRole("button", { name: "Take it back" }).click();
  await ana.getByLabel("Link to this film").waitFor({ state: "hidden" });
  guest.expected = ["404"];
  await guest.reload();
  await guest.getByText("nothing here any more").waitFor();

  // Whoever goes is not seen any more, and has to knock again.
  await ben.goto(`${server.url}/people`);
  await ana.getByLabel("Ben is here").waitFor({ state: "detached" });
  await ben.getByRole("button", { name: "Sign out (Ben)" }).click();
  await ben.waitForURL(/\/enter/);
  ben.expected = ["401"];
  await ben.getByLabel("Name").fill("ben");
  await ben.getByLabel("Password").fill("not the password");
  await ben.getByRole("button", { name: "Sign in" }).click();
  await ben.getByRole("alert").waitFor();
  await ben.getByLabel("Password").fill(password);
  await ben.getByRole("button", { name: "Sign in" }).click();
  await ben.waitForURL(`${server.url}/`);
  for (const page of [ana, ben, guest]) assert.deepEqual(page.problems, []);
});

async function signIn(page, name) {
  await page.goto(`${server.url}/enter`);
  await page.getByLabel("Name").fill(name);
  await page.getByLabel("Password").fill(password);
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await page.waitForURL(`${server.url}/`);
}

test("a team has somebody from outside in, who sees its production only, and whoever has its link looks at it without a film", async () => {
  const ana = await openPage(browser, server);
  await signIn(ana, "Ana");
  await ana.goto(`${server.url}/people`);
  await ana.getByLabel("Name of a new team").fill("Bakery films");
  await ana.keyboard.press("Enter");
  const team = ana.locator('[data-team="Bakery films"]');
  // Somebody who is known by name, and somebody who comes by a link.
  await team.getByLabel("Who comes into Bakery films").fill("ben");
  await team.getByLabel("What that somebody may do in Bakery films").selectOption("Acts");
  await ana.keyboard.press("Enter");
  await team.locator("[data-member=Ben]").waitFor();
  await team.getByRole("button", { name: "By a link" }).click();
  await ana.getByLabel("The link into Bakery films").waitFor();
  const link = await ana.getByLabel("The link into Bakery films").inputValue();
  assert.deepEqual(await violations(ana), []);
  await ana.goto(server.url);
  const card = ana
    .locator("li")
    .filter({ has: ana.getByRole("heading") })
    .first();
  const title = await card.getByRole("heading").textContent();
  const eve = await openPage(browser, server);
  await comeIn(eve, new URL(link).pathname, "Eve");
  await eve.getByText("Nothing on the shelf yet").waitFor();
  // Given to the team in one choice, it is on the shelf of its people.
  await ana.getByLabel(`Whose is ${title}`).selectOption({ label: "Bakery films" });
  await eve.getByRole("heading", { name: title }).waitFor();
  await ana.getByLabel("Whose productions").selectOption("Bakery films");
  await ana.getByRole("heading", { name: title }).waitFor();
  await ana.getByLabel("Whose productions").selectOption("Everybody");
  await ana.getByRole("heading", { name: title }).waitFor({ state: "detached" });
  assert.deepEqual(await violations(ana), []);
  await eve.getByRole("link", { name: title }).first().click();
  await eve.locator("#stage[data-frame]").waitFor();

  await eve.getByRole("tab", { name: "Film" }).click();
  await eve.getByRole("button", { name: "Show it without a film" }).click();
  await eve.waitForFunction(() => document.querySelector('[aria-label="Link to this production"]').value);
  const shown = await eve.getByLabel("Link to this production").inputValue();
  const guest = await openPage(browser, server);
  await guest.goto(shown);
  await guest.locator("#look-stage[data-frame]").waitFor();
  assert.deepEqual(await violations(guest), []);
  await guest.getByRole("button", { name: /The oven is hot/ }).click();
  await guest.getByRole("button", { name: "Play" }).click();
  await guest.locator('[aria-current="true"]').filter({ hasText: "The oven is hot" }).waitFor();
  await guest.waitForFunction(() => Number(document.getElementById("look-stage").dataset.frame) > 15);
  await guest.locator("#look-stage").click();
  await guest.getByRole("button", { name: "Play" }).waitFor();
  await guest.keyboard.press("Home");
  await guest.locator("#look-stage[data-frame='0']").waitFor();
  assert.deepEqual(guest.problems, []);
  await eve.getByRole("button", { name: "Take it back" }).click();
  await eve.getByLabel("Link to this production").waitFor({ state: "hidden" });
  guest.expected = ["404"];
  await guest.reload();
  await guest.getByText("nothing here any more").waitFor();
  // Taken out of the team she finds nothing there.
  await ana.goto(`${server.url}/people`);
  await ana.getByRole("button", { name: "Take Eve out of Bakery films" }).click();
  await team.locator("[data-member=Eve]").waitFor({ state: "detached" });
  eve.expected = ["404"];
  await eve.goto(server.url);
  await eve.getByText("No team has you in yet").waitFor();
  assert.deepEqual(await violations(eve), []);
  for (const page of [ana, eve, guest]) await page.context().close();
});

test("somebody signs in by a passkey, and no more when it is taken away", async () => {
  // Under a name: browsers give no passkeys for bare addresses. The device is one that the browser makes up.
  const at = server.url.replace("127.0.0.1", "localhost");
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  const device = await context.newCDPSession(page);
  await device.send("WebAuthn.enable");
  const options = { protocol: "ctap2", transport: "internal", hasResidentKey: true, hasUserVerification: true, isUserVerified: true };
  await device.send("WebAuthn.addVirtualAuthenticator", { options: { ...options, automaticPresenceSimulation: true } });
  await page.goto(`${at}/enter`);
  await page.getByLabel("Name").fill("Ana");
  await page.getByLabel("Password").fill(password);
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
  await page.waitForURL(`${at}/`);
  await page.goto(`${at}/people`);
  // How much others may bring is said here, too.
  const quota = page.getByLabel("Gigabytes that Ben may bring");
  await quota.fill("1.5");
  await quota.press("Tab");
  await page.getByText("lets Ben bring 1,536 MB").waitFor();
  assert.equal(await quota.inputValue(), "1.5");
  await page.locator("#passkey-name").fill("Ana's laptop");
  await page.locator("#passkey-add").click();
  const key = page.getByRole("list", { name: "Passkeys" }).getByRole("listitem");
  await key.filter({ hasText: "Ana's laptop" }).waitFor();
  assert.deepEqual(await violations(page), []);
  await page.getByRole("button", { name: /^Sign out/ }).click();
  await page.waitForURL(/\/enter/);
  await page.locator("#enter-passkey").click();
  await page.waitForURL(`${at}/`);
  await page.goto(`${at}/people`);
  await page.getByText("signs in by passkey").first().waitFor();
  await page.getByRole("button", { name: "Take Ana's laptop away" }).click();
  await key.waitFor({ state: "detached" });
  await page.getByRole("button", { name: /^Sign out/ }).click();
  await page.waitForURL(/\/enter/);
  await page.locator("#enter-passkey").click();
  await page.locator("#enter-error").filter({ hasText: "not known here" }).waitFor();
  assert.deepEqual(await violations(page), []);
  await context.close();
});
