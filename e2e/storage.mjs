// How the data is kept: what is said about it at once, what takes room, older takes, and old sound that goes: node storage.mjs URL
import { browse, ensure, lane } from './browser.mjs';

const [url] = process.argv.slice(2);

await browse(url, [], async (_, page) => {
  // What cannot be read is named and stops nothing; the clock that was set back is told, and read away.
  const notes = page.getByRole('alert').filter({ hasText: 'cannot be read and is left out: song 1.' });
  await notes.waitFor();
  const clock = page.getByRole('note').filter({ hasText: 'clock stands' });
  await clock.waitFor();
  await clock.getByRole('button', { name: 'Close this message' }).click();
  await clock.waitFor({ state: 'hidden' });
  await notes.waitFor();

  // Takes come a page at a time.
  const hear = lane(page, 'Hear');
  await hear.getByText('Takes (27)').click();
  ensure((await hear.locator('details ul > li').count()) === 20, 'twenty takes at first');
  await hear.getByRole('button', { name: 'Show older takes (7 more)' }).click();
  await hear.getByRole('button', { name: /^Show older/ }).waitFor({ state: 'hidden' });
  ensure((await hear.locator('details ul > li').count()) === 27, 'then all of them');

  // From the menu and by its key.
  await page.keyboard.press('z');
  const storage = page.getByRole('dialog', { name: 'Storage' });
  await storage.getByText('in 27 takes').waitFor();
  await page.keyboard.press('Escape');
  await storage.waitFor({ state: 'hidden' });
  await page.locator('summary[aria-label="More"]').click();
  await page.getByRole('button', { name: 'Storage Z' }).click();
  await storage.getByText('in 27 takes').waitFor();

  await storage.getByLabel('Takes older than, days').fill('99999');
  await storage.getByRole('button', { name: 'What would go?' }).click();
  await storage.getByText('Old sound is of takes up to 3650 days old', { exact: false }).waitFor();
  await storage.getByLabel('Takes older than, days').fill('1');
  await storage.getByLabel('Strikes of each that keep it').fill('1');
  await storage.getByRole('button', { name: 'What would go?' }).click();
  await storage.getByText(/^The sound of 26 strikes/).waitFor();
  await storage.getByRole('button', { name: 'Let it go' }).click();
  await storage.getByText('The sound of 26 strikes was let go', { exact: false }).waitFor();
  await storage.getByRole('button', { name: 'What would go?' }).click();
  await storage.getByText('Nothing: there is no such sound.').waitFor();

  await storage.getByLabel('Do this by itself, once a day').check();
  await storage.getByRole('button', { name: 'Make a copy now' }).click();
  await storage.getByText('of the day', { exact: false }).waitFor();
  await storage.getByRole('button', { name: /^Make the file smaller/ }).click();
  await storage.getByText('The data file takes', { exact: false }).waitFor();
  ensure(await storage.getByLabel('Do this by itself, once a day').isChecked(), 'the rule is kept');
  await page.keyboard.press('Escape');

  // Figures stay where the sound has gone.
  await hear.locator('details ul > li').last().locator('summary').first().click();
  await hear.getByText('its sound was let go').first().waitFor();
  const play = hear
    .locator('details ul > li')
    .last()
    .getByRole('button', { name: /^Play strike/ });
  const silent = await play.evaluateAll((buttons) => buttons.map((button) => button.disabled));
  ensure(silent.filter(Boolean).length === 1 && silent.length === 2, 'what is gone cannot be played, what is left can');
});

// On a phone nothing is wider than the screen.
await browse(
  url,
  [],
  async (_, page) => {
    await page.locator('summary[aria-label="More"]').click();
    await page.getByRole('button', { name: 'Storage Z' }).click();
    await page.getByRole('dialog', { name: 'Storage' }).getByText('in 27 takes').waitFor();
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
    ensure(wide <= 0, `${wide} px wider than the screen`);
  },
  { width: 390, height: 844 },
);

// Another language reaches every view and every sentence of the program's, and stays chosen.
await browse(url, [], async (_, page) => {
  await page.locator('summary[aria-label="More"]').click();
  await page.getByRole('button', { name: 'Deutsch' }).click();
  const places = page.getByRole('navigation', { name: 'Orte' });
  await places.getByRole('button', { name: /^Werkbank/ }).waitFor();
  await page
    .getByText(/Der Oberton bei \d+ Hz klingt/)
    .first()
    .waitFor();
  ensure((await page.locator('html').getAttribute('lang')) === 'de', 'the page says that it is German');
  await page.reload();
  await page.getByRole('heading', { name: 'Wunsch', exact: true }).waitFor();
  // Figures have a comma.
  await page
    .getByText(/\d,\d\d\s*s/)
    .first()
    .waitFor();
  await page.locator('summary[aria-label="Mehr"]').click();
  await page.getByRole('button', { name: 'English' }).click();
  await page.getByRole('navigation', { name: 'Places' }).waitFor();
});
