// A cymbal is added, heard by octaves, taped, and checked: node cymbal.mjs URL. Leaves the kit as it found it.
import { browse, ensure } from './browser.mjs';
import { check } from './wcag.mjs';

const [url] = process.argv.slice(2);

await browse(url, [], async (_, page) => {
  const kit = page.getByRole('navigation', { name: 'Kit, in playing order' });
  await kit.waitFor();
  await page.keyboard.press('s');
  await page.getByRole('button', { name: 'One cymbal tape more' }).click();
  await page.keyboard.press('n');
  const editor = page.getByRole('dialog');
  await editor.getByLabel('Name').fill('China');
  await editor.getByText('Cymbal', { exact: true }).click();
  ensure((await editor.getByLabel('Lugs').count()) === 0, 'a cymbal has no lugs');
  await editor.getByLabel('Weight, g').fill('5');
  await editor.getByRole('button', { name: 'Add it' }).click();
  ensure(await editor.isVisible(), 'a cymbal of 5 g is refused');
  await editor.getByLabel('Weight, g').fill('1050');
  await editor.getByRole('button', { name: 'Add it' }).click();
  await kit.getByRole('button', { name: /^China/ }).waitFor();

  // There is nothing to tune.
  await page.keyboard.press('k');
  await page.getByText('China has no heads: there is nothing to tune.').waitFor();
  await check(page, 'tuning a cymbal');
  await page.keyboard.press('b');

  // Its octaves are heard, and tape is what there is.
  await page.getByRole('heading', { name: /^Left to sound as it does\./ }).waitFor();
  await page.keyboard.press('i');
  const plans = page.getByRole('region', { name: 'Do' });
  const want = page.getByRole('region', { name: 'Want' });
  await kit.getByRole('button', { name: /^China: fits/ }).waitFor({ timeout: 90_000 });
  await want.getByText('Left to sound as it does.').waitFor();
  await check(page, 'a cymbal left alone');
  await want.getByRole('button', { name: 'Too washy' }).click();
  await page.getByText('Too washy: now its wash is judged.').first().waitFor();
  await plans.getByText('cymbal tape').first().waitFor({ timeout: 90_000 });
  await page.getByText('Put on: cymbal tape.').waitFor();
  await check(page, 'a cymbal on the bench');
  const rows = page.getByRole('table', { name: 'How long each partial is heard' }).getByRole('row');
  ensure((await rows.filter({ hasText: 'octave at' }).count()) === 7, `octaves: ${await rows.allTextContents()}`);
  ensure((await plans.getByText(/from the edge/).count()) > 0, 'places are said from the edge');

  await page.keyboard.press('d');
  await page.getByText('On it: cymbal tape').waitFor();
  await page.getByRole('button', { name: 'Listen' }).click();
  await kit.getByRole('button', { name: /^China: (does not fit|nearly fits|fits)/ }).waitFor({ timeout: 90_000 });

  await page.keyboard.press('e');
  await editor.getByRole('button', { name: 'Remove it …' }).click();
  await editor.getByRole('button', { name: 'Remove for good' }).click();
  await kit.getByRole('button', { name: /^China/ }).waitFor({ state: 'detached' });
  await page.keyboard.press('s');
  await page.getByRole('button', { name: 'One cymbal tape fewer' }).click();
});
console.log('a cymbal taped');
