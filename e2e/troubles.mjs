// What goes wrong is said in words and loses nothing: node troubles.mjs URL WAV
import { browse, ensure, lane, refusing, without } from './browser.mjs';

const [url, wav] = process.argv.slice(2);

await browse(url, refusing, async (context, page) => {
  const listen = page.getByRole('button', { name: 'Listen' });
  const stage = page.getByRole('dialog');

  // The microphone is refused.
  await listen.click();
  await stage.getByRole('alert').filter({ hasText: 'The browser was told not to let this page use the microphone.' }).waitFor();
  await page.keyboard.press('Escape');
  await stage.waitFor({ state: 'hidden' });

  // A file that is no sound.
  const file = lane(page, 'Hear').getByLabel('Sound file', { exact: true }).locator('input');
  await file.setInputFiles({ name: 'poem.wav', mimeType: 'audio/wav', buffer: Buffer.from('no sound at all') });
  await page.getByText('poem.wav: This is not a sound file', { exact: false }).waitFor();

  // A tempo that cannot be.
  await page.getByLabel('Tempo, beats a minute').fill('9');
  await page.getByLabel('Tempo, beats a minute').press('Enter');
  await page.getByText('A tempo lies between 30 and 300 BPM.').waitFor();

  // Two windows at once.
  await page.getByText('Simulated drum', { exact: true }).click();
  await listen.click();
  await stage.getByText('of 5').waitFor();
  const other = await context.newPage();
  await other.goto(url);
  await other.getByText('Simulated drum', { exact: true }).click();
  await other.getByRole('button', { name: 'Listen' }).click();
  await other.getByRole('alert').filter({ hasText: 'Another window is listening.' }).waitFor();
  await other.getByRole('button', { name: 'Listen here instead' }).click();
  await stage.getByRole('alert').filter({ hasText: 'Another window listens now. What was heard here is kept.' }).waitFor();
  await other.keyboard.press('Escape');
  await other.getByRole('dialog').waitFor({ state: 'hidden' });
  await other.close();
  await page.getByRole('button', { name: 'Back to the bench' }).click();
  // Whether a strike was heard until then, the machine's speed decides: what follows begins with none.
  await page.evaluate(async () => {
    const { drums } = await (await fetch('/api/v1/kit')).json();
    const { takes } = await (await fetch(`/api/v1/drums/${drums[0].drum.id}/bench`)).json();
    for (const { id } of takes) await fetch(`/api/v1/takes/${id}`, { method: 'DELETE' });
  });
  await page.reload();

  // A drum that cannot be; then one that can, and it is removed again.
  await page.keyboard.press('n');
  const editor = page.getByRole('dialog', { name: 'A new drum' });
  await editor.getByLabel('Name').fill('Far too big');
  await editor.getByLabel('Diameter, in').fill('12');
  await editor.getByText('Floor tom', { exact: true }).click();
  ensure((await editor.getByLabel('Diameter, in').inputValue()) === '16', 'usual sizes follow the kind');
  await editor.getByRole('button', { name: 'Add it' }).click();
  await page.getByRole('heading', { name: 'Hit the Far too big 5 times.' }).waitFor();
  await page.keyboard.press('e');
  const edit = page.getByRole('dialog', { name: 'Edit the drum' });
  await edit.getByRole('button', { name: 'Remove it …' }).click();
  await edit.getByRole('button', { name: 'Remove for good' }).click();
  await page.getByRole('heading', { name: /^Hit the Tom/ }).waitFor();

  // An empty shelf, and filled again by keys alone.
  await page.keyboard.press('s');
  const count = page.getByLabel('gel pad, how many you own');
  await count.fill('0');
  await count.press('Enter');
  await page.getByRole('button', { name: 'One gel pad fewer' }).and(page.locator(':disabled')).waitFor();
  await page.getByRole('button', { name: 'One gel pad more' }).press('Enter');
  ensure((await count.inputValue()) === '1', 'one gel pad');
});

// No microphone at all; listening again with the simulated drum is one step away.
await browse(url, without, async (_, page) => {
  await page.getByRole('button', { name: 'Listen' }).click();
  await page.getByRole('alert').filter({ hasText: 'No microphone was found. Plug one in, or use a file or the simulated drum.' }).waitFor();
  await page.getByRole('button', { name: 'Back to the bench' }).click();
  await page.getByText('Simulated drum', { exact: true }).click();
  await page.getByRole('button', { name: 'Listen' }).waitFor();
});

// A file that is sound goes the same way as a microphone, to the same place.
await browse(url, [], async (_, page) => {
  const hear = lane(page, 'Hear');
  await page.getByRole('heading', { name: /^Hit the Tom/ }).waitFor();
  const takes = Number(
    (await hear.getByText(/^Takes \(\d+\)/).count()) && (await hear.getByText(/^Takes \(\d+\)/).textContent()).match(/\d+/)[0],
  );
  await hear.getByLabel('Sound file', { exact: true }).locator('input').setInputFiles(wav);
  await page.getByText('strikes.wav: 2 good strikes.').first().waitFor();
  await hear.getByText('Nothing on it: 2 strikes.', { exact: false }).waitFor();
  await hear.getByText(`Takes (${takes + 1})`).waitFor();
});
