// Note lengths are trained on a concert bass drum: node notes.mjs URL. Leaves the kit as it found it.
import { browse, ensure, heard } from './browser.mjs';
import { check } from './wcag.mjs';

const [url] = process.argv.slice(2);

await browse(url, [], async (_, page) => {
  const kit = page.getByRole('navigation', { name: 'Kit, in playing order' });
  await kit.waitFor();
  await page.keyboard.press('n');
  const editor = page.getByRole('dialog');
  await editor.getByLabel('Name').fill('Big one');
  await editor.getByText('Concert bass drum', { exact: true }).click();
  await editor.getByRole('button', { name: 'Add it' }).click();
  await kit.getByRole('button', { name: /^Big one/ }).waitFor();

  const card = page.getByRole('region', { name: 'Note lengths' });
  await card.waitFor();
  await check(page, 'note lengths on the bench');
  await card.getByLabel('Written').selectOption({ label: 'quarter' });
  const tempo = card.getByLabel('Quarter notes a minute');
  await tempo.fill('7');
  await tempo.press('Tab');
  await card.getByRole('button', { name: /^Train/ }).click();
  await page.getByText('A tempo lies between 30 and 300 quarter notes a minute.').first().waitFor();
  await tempo.fill('100');
  await tempo.press('Tab');
  await page.getByText('Simulated drum').first().click();
  await page.keyboard.press('j');

  // The simulated player begins half as long again, and comes nearer with each note.
  const stage = page.getByRole('dialog').filter({ hasText: 'Written: quarter, 100 quarter notes a minute' });
  await stage.getByText('Written: quarter, 100 quarter notes a minute: 0.60 s').waitFor();
  const notes = stage.getByRole('list', { name: 'Notes played, the newest first' }).getByRole('listitem');
  await stage
    .getByRole('status')
    .getByText(/^3 notes, \d as written\. \w/)
    .waitFor({ timeout: 60_000 });
  const off = async (nth) => Number(/([\d.]+) s too long/.exec(await notes.nth(nth).textContent())?.[1] ?? 0);
  ensure((await off(2)) > 0.15 && (await off(0)) < (await off(2)), `nearer: ${await notes.allTextContents()}`);
  for (const [width, height] of [
    [360, 740],
    [1280, 800],
  ]) {
    await page.setViewportSize({ width, height });
    await check(page, `notes, ${width} px`);
  }
  await page.keyboard.press('Escape');
  await stage.getByRole('button', { name: 'Once more' }).waitFor();
  await page.keyboard.press('PageDown');
  await stage.waitFor({ state: 'hidden' });

  // Measured, it says when hands go down for the written note, and how fast a roll must be.
  await page.keyboard.press('i');
  await heard(page);
  await card
    .getByRole('listitem')
    .filter({ hasText: /^Hand and knee: down [\d.]+ m?s after the stroke \([\d.]+ m?s to [\d.]+ m?s\)/ })
    .waitFor();
  await card.getByText(/Both\s+hands together [\d.]+ strokes a second \([\d.]+ to [\d.]+\)/).waitFor();
  await check(page, 'note lengths of a measured drum');
  await page.keyboard.press('x');
  await page.getByRole('tab', { name: 'How to strike it' }).click();
  await page
    .getByRole('listitem')
    .filter({ hasText: /^fleece\s· as measured/i })
    .waitFor();
  ensure(!(await page.getByRole('heading', { name: 'Left in the head' }).isVisible()), 'no pedal strikes it');
  await page.keyboard.press('b');

  await page.keyboard.press('e');
  await editor.getByRole('button', { name: 'Remove it …' }).click();
  await editor.getByRole('button', { name: 'Remove for good' }).click();
  await kit.getByRole('button', { name: /^Big one/ }).waitFor({ state: 'detached' });
});
console.log('notes trained');
