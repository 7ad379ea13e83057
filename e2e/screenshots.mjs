// Takes the pictures of docs/screenshots from a fresh demonstration, and empties it at the end: node screenshots.mjs URL FOLDER
import { browse, lane } from './browser.mjs';

const [url, folder] = process.argv.slice(2);
const PHONE = { width: 390, height: 844 };

async function planned(page) {
  await page.keyboard.press('3');
  await lane(page, 'Do').getByRole('article').nth(1).waitFor();
}

await browse(url, ['--autoplay-policy=no-user-gesture-required'], async (_, page) => {
  const shot = async (name) => {
    // Colours change gently.
    await page.waitForTimeout(500);
    await page.screenshot({ path: `${folder}/${name}.png` });
  };
  await page.getByRole('button', { name: /^Rack tom/ }).waitFor();
  await planned(page);
  await shot('bench-plans');
  await page.keyboard.press('m');
  await shot('bench-plans-daylight');
  await page.keyboard.press('m');
  await page.keyboard.press('a');
  await page.getByRole('dialog').getByRole('button', { name: 'Stop' }).waitFor();
  await page.getByRole('dialog').getByRole('radio', { name: 'In a groove' }).check();
  await page.getByRole('dialog').getByRole('button', { name: 'Stop' }).waitFor();
  await shot('hear-first');
  await page.keyboard.press('Escape');
  await page.keyboard.press('c');
  await page
    .getByRole('dialog')
    .getByRole('img', { name: /^Waterfall/ })
    .waitFor();
  await shot('look');
  await page.keyboard.press('Escape');
  // Called, not listened to.
  await page.keyboard.press('w');
  await page.getByRole('heading', { name: 'Now: Deck snare' }).waitFor();
  await shot('whole-kit');
  await page.keyboard.press('Escape');
  await page.keyboard.press('4');
  await lane(page, 'Do').getByRole('table', { name: 'Expected beside found' }).waitFor();
  await shot('bench-checked');
  await page.keyboard.press('y');
  await lane(page, 'Do').getByRole('article', { name: 'Lay it out yourself' }).waitFor();
  await shot('layout');
  await page.keyboard.press('y');
  await page.keyboard.press('5');
  await page.keyboard.press('x');
  await page.getByRole('button', { name: /^a 5 in hole/ }).click();
  await shot('front');
  await page.keyboard.press('b');
  await page.keyboard.press('s');
  await page.getByRole('heading', { name: 'Shelf', exact: true }).waitFor();
  await shot('shelf');
  await page.keyboard.press('g');
  await page.getByRole('button', { name: /^Kick in Slack Tide/ }).waitFor();
  await shot('evening');
  await page.getByRole('button', { name: 'Microphones', exact: true }).click();
  await page.getByRole('button', { name: 'Look at a simulated one' }).click();
  await page.getByRole('button', { name: 'Measure its drums' }).click({ timeout: 120_000 });
  const drums = page.getByRole('heading', { name: 'The drums' });
  await page.getByText('Times are for a fall', { exact: false }).waitFor({ timeout: 120_000 });
  await drums.scrollIntoViewIfNeeded();
  await shot('microphones');
  await page.getByRole('button', { name: 'Venues', exact: true }).click();
  await page.getByRole('heading', { name: 'Stern deck' }).waitFor();
  await shot('venues');
  await page.getByRole('button', { name: 'Evening', exact: true }).click();
  await page.keyboard.press('v');
  for (let song = 0; song < 5; song++) await page.keyboard.press('PageDown');
  await shot('stage');
  await page.keyboard.press('Escape');
  await page.keyboard.press('3');
  await page.getByRole('heading', { name: /^Put on/ }).waitFor();
  // Two strikes in; what was heard is removed again, so that the demonstration stays as it was.
  await page.keyboard.press('i');
  await page.getByLabel('2 of 5 good strikes').waitFor();
  await shot('listening');
  await page.keyboard.press('Escape');
  await page.getByRole('dialog').waitFor({ state: 'hidden' });
  await lane(page, 'Hear')
    .getByText(/^Takes \(\d\)/)
    .click();
  await lane(page, 'Hear')
    .getByText(/simulated drum:/)
    .first()
    .click();
  await page.getByRole('button', { name: 'Remove the take …' }).click();
  await page.getByRole('button', { name: 'Remove for good' }).click();
  await page.getByText('The take was removed.').first().waitFor();
});

await browse(url, [], async (_, page) => {
  await page.getByRole('button', { name: /^Floor tom/ }).waitFor();
  await page.keyboard.press('4');
  await page.keyboard.press('k');
  await page.getByRole('heading', { name: 'Tune the Floor tom' }).waitFor();
  await page.keyboard.press('i');
  await page.getByText('5 of 8 lugs heard').waitFor();
  await page.screenshot({ path: `${folder}/tapping.png` });
  await page.getByRole('dialog').waitFor({ state: 'hidden' });
  await page.getByText(/^Lugs differ by/).waitFor();
  await page.screenshot({ path: `${folder}/tune.png` });
  await page.keyboard.press('z');
  await page.getByRole('dialog', { name: 'Storage' }).getByText('Copies', { exact: true }).waitFor();
  await page.waitForTimeout(500);
  await page.screenshot({ path: `${folder}/storage.png` });
});

await browse(
  url,
  [],
  async (_, page) => {
    await page.getByRole('button', { name: /^Rack tom/ }).waitFor();
    await planned(page);
    await page.screenshot({ path: `${folder}/phone.png` });
  },
  PHONE,
);

// An empty stage: every drum has left it.
await browse(url, [], async (_, page) => {
  await page.getByRole('button', { name: /^Rack tom/ }).waitFor();
  await page.evaluate(async () => {
    const { drums } = await (await fetch('/api/v1/kit')).json();
    for (const { drum } of drums) await fetch(`/api/v1/drums/${drum.id}`, { method: 'DELETE' });
  });
  await page.reload();
  await page.getByRole('button', { name: 'Take this one: Jazz kit' }).waitFor();
  await page.screenshot({ path: `${folder}/beginning.png` });
});
