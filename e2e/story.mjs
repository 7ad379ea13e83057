// The whole story with the simulated drum: node story.mjs URL
import { browse, ensure, heard, lane } from './browser.mjs';

const [url] = process.argv.slice(2);

await browse(url, [], async (_, page) => {
  const kit = page.getByRole('navigation', { name: 'Kit, in playing order' });
  await kit.getByRole('button', { name: /^Deck snare: (fits|nearly fits|does not fit)/ }).waitFor();
  ensure((await kit.getByRole('button').count()) === 11, 'nine pieces, their kit and the way to add one');

  // Another snare comes out of its case: nobody has heard it yet.
  await kit.getByRole('button', { name: /^Wood snare: in its case/ }).click();
  await page.getByRole('button', { name: 'Set it up' }).click();
  await kit.getByRole('button', { name: /^Wood snare: not measured/ }).waitFor();

  // Another drum and back, by keys as by clicks.
  await page.keyboard.press('5');
  await lane(page, 'Hear').getByText('Kick: kick, 20 in × 14 in').waitFor();
  await kit.getByRole('button', { name: /^Wood snare/ }).click();
  await page.getByRole('heading', { name: 'Hit the Wood snare 5 times.' }).waitFor();

  // Hit five times without touching the screen.
  await page.getByText('Simulated drum', { exact: true }).click();
  await page.getByRole('button', { name: 'Listen' }).click();
  await page.getByText('of 5').waitFor();
  await heard(page);

  // Body and ring, and how sure that is.
  const hear = lane(page, 'Hear');
  await hear.getByText('5 strikes', { exact: false }).first().waitFor();
  ensure((await hear.getByText(/^± 0\.\d\d s$/).count()) === 2, 'body and ring with their doubt');
  await hear.getByRole('img', { name: /^Ember trails/ }).waitFor();

  // Genre and tempo decide what is wanted.
  const want = lane(page, 'Want');
  await want.getByLabel('Tonight’s genre').selectOption({ label: 'Metal' });
  await want.getByLabel('Tempo, beats a minute').fill('190');
  await want.getByLabel('Tempo, beats a minute').press('Enter');
  // Opened only once it is there: what is said changes with the answer.
  await want
    .getByText('Ring gone within a sixteenth at 190 BPM: 79 ms, but nothing shorter than 100 ms is asked for.')
    .waitFor({ state: 'attached' });
  await want.getByText('How the wish comes about').click();
  await want.getByText('Ring gone within a sixteenth at 190 BPM: 79 ms, but nothing shorter than 100 ms is asked for.').waitFor();
  await want
    .getByText(/too long/)
    .first()
    .waitFor();

  // What its player says of it moves the wish, and is forgotten.
  await want.getByRole('button', { name: 'I like it' }).click();
  await want.getByText(/^Yours: \d+ % longer than the genre has it, from one thing you said/).waitFor();
  await want.getByRole('button', { name: 'Forget it' }).click();
  await want.getByText(/^Yours: /).waitFor({ state: 'detached' });

  // Two or three different plans, and perhaps one that another school would choose.
  const plans = lane(page, 'Do').getByRole('article');
  await lane(page, 'Do')
    .getByText(/get there, each in its own way|come nearest/)
    .waitFor();
  // Until then the plans for the wish before stand there, dimmed.
  await lane(page, 'Do').locator('[aria-busy=false]').waitFor();
  const count = await plans.count();
  ensure(count >= 2 && count <= 4, `${count} plans`);
  const titles = await plans.getByRole('heading', { level: 3 }).allTextContents();
  ensure(new Set(titles).size === count, `plans differ in kind: ${titles}`);
  await plans.nth(1).getByRole('radio').check();
  await hear.getByText(`expected of “${titles[1]}”`).waitFor();
  await plans.nth(1).getByText('How to put it on').click();
  await plans
    .nth(1)
    .getByText(/Costs: attack −/)
    .waitFor();

  // Done, undone, done.
  await plans.nth(1).getByRole('button', { name: 'It is on' }).click();
  await page.getByRole('heading', { name: 'Hit the Wood snare 5 times again.' }).waitFor();
  await page.keyboard.press('u');
  await page.getByRole('heading', { name: /^Put on/ }).waitFor();
  await page.keyboard.press('d');
  await page.getByRole('heading', { name: 'Hit the Wood snare 5 times again.' }).waitFor();

  // A pedal's forward key listens again.
  await page.keyboard.press('PageDown');
  await heard(page);
  const table = lane(page, 'Do').getByRole('table', { name: 'Expected beside found' });
  await table.waitFor();
  const body = await table.getByRole('row').filter({ hasText: /^Body/ }).first().textContent();
  ensure((body.match(/\d (m?s)/g) ?? []).length >= 3, `open, expected and found: ${body}`);
  await kit.getByRole('button', { name: /^Wood snare: (fits|nearly fits|does not fit)\..*On it: / }).waitFor();

  // The way back is told as well.
  await lane(page, 'Do')
    .getByText(/^How to take it off, about \d+ (s|min)$/)
    .click();
  const off = lane(page, 'Do').getByRole('article', { name: 'On the drum' }).getByRole('list').last().getByRole('listitem');
  ensure((await off.count()) >= 2, 'steps to take it off');

  // A closer look, through the strikes by the pedal, and its figures as a file.
  await page.keyboard.press('c');
  const dialog = page.getByRole('dialog', { name: /^Strike \d of 5/ });
  await dialog.getByRole('img', { name: /^Decay curve\. .*\d s/ }).waitFor();
  await dialog.getByRole('img', { name: /^Waterfall: \d+ Hz is heard longest/ }).waitFor();
  ensure((await dialog.getByRole('table').count()) === 2, 'partials and octaves');
  const first = await dialog.getByRole('heading', { level: 2 }).textContent();
  const way = first.includes('Strike 5') ? 'PageUp' : 'PageDown';
  await page.keyboard.press(way);
  await page.waitForFunction((old) => document.querySelector('#look-title')?.textContent !== old, first);
  const file = page.waitForEvent('download');
  await dialog.getByRole('link', { name: 'All strikes of the take (CSV)' }).click();
  ensure(/^take-\d+-strikes\.csv$/.test((await file).suggestedFilename()), 'a CSV file');
  await page.keyboard.press('Escape');

  // A take measured again comes out as it was.
  await hear.getByText(/^Takes \(/).click();
  await hear.getByText(/as it is now, simulated drum/).click();
  await hear.getByRole('button', { name: 'Measure its sound again' }).first().click();
  await hear.getByText('Measured again from the kept sound: nothing changes.').waitFor();
  await hear.getByRole('button', { name: /^Measure all \d+ takes again/ }).click();
  await hear.getByText(/^\d+ takes measured again:\s+nothing changes\./).waitFor();

  // The whole kit, drum by drum: one is skipped, then it is stopped.
  await page.keyboard.press('w');
  await page.getByRole('heading', { name: 'Now: Deck snare' }).waitFor();
  await page.keyboard.press('s');
  await page.getByRole('heading', { name: 'Now: Rack tom' }).waitFor();
  await page.keyboard.press('Escape');
  await kit.waitFor();
  ensure((await page.getByRole('heading', { name: /^Now/ }).count()) === 0, 'it is over');
});
