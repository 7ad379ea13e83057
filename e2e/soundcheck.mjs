// A soundcheck with one channel for each microphone, simulated and as a file: node soundcheck.mjs URL WAV (of one channel)
import { readFile } from 'node:fs/promises';
import { browse, ensure } from './browser.mjs';

const [url, wav] = process.argv.slice(2);

await browse(`${url}/#/tonight/microphones`, [], async (_, page) => {
  await page.getByRole('button', { name: 'Look at a simulated one' }).click();
  const snare = page.getByRole('listitem').filter({ hasText: '3 snare top · 4 snare bottom' });
  await snare.getByText('Flip the polarity of “snare bottom”', { exact: false }).waitFor({ timeout: 120_000 });
  await snare.getByText('they move against each other').waitFor();
  await snare.getByText('What their sum gains, by octave').click();
  await snare.getByRole('row', { name: /^250 Hz/ }).waitFor();
  await page.getByText(/^The right overhead is \d+ cm further from the snare than the left one\./).waitFor();

  // Its drums are measured, and stay while another view is looked at.
  await page.getByRole('button', { name: 'Measure its drums' }).click();
  const kick = page.getByRole('listitem').filter({ hasText: /^1\s*kick in/ });
  await kick.getByText('60 Hz', { exact: true }).waitFor({ timeout: 120_000 });
  // Where its knobs begin: from what was heard, and as a file.
  await kick.getByText('Tone to begin with').click();
  await kick.getByText(/^Gate opens at −\d+ dBFS$/).waitFor();
  await kick.getByText('Leave 60 Hz').waitFor();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save as CSV' }).click();
  const csv = await readFile(await (await download).path(), 'utf8');
  ensure(csv.startsWith('channel,microphone,knob,') && csv.includes('\r\n1,kick in,gate_threshold,'), 'the CSV holds the kick’s gate');
  await page.getByRole('button', { name: 'Venues', exact: true }).click();
  await page.getByRole('button', { name: 'Microphones', exact: true }).click();
  await kick.getByText('60 Hz', { exact: true }).waitFor();

  // A file of one's own is listed first, then its channels are named.
  const file = page.locator('input[type=file][aria-label="Soundcheck"]');
  await file.setInputFiles(wav);
  await page.getByRole('alert').filter({ hasText: 'has only one channel' }).waitFor();
  // Something that is no sound is refused.
  await file.setInputFiles({ name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('four bars') });
  await page.getByRole('alert').filter({ hasText: 'not a sound file' }).waitFor();
  ensure((await page.getByText('Say what each of them is.').count()) === 0, 'nothing is listed of what cannot be read');
});
