// Strikes through the browser's microphone: node microphone.mjs URL WAV open|treated|real DRUM
// Prints {"complete": whether five good strikes were heard}; a short machine loses sound, and the caller tries again.
import { browse, heard, lane, playing } from './browser.mjs';

const [url, wav, round, drum] = process.argv.slice(2);

await browse(url, playing(wav), async (_, page) => {
  await page.getByRole('heading', { name: `Hit the ${drum} 5 times` }).waitFor();
  await page.getByRole('button', { name: 'Listen' }).click();
  await page.getByRole('dialog').getByText(`Hit the ${drum}.`).waitFor();
  try {
    await heard(page, 30_000);
  } catch {
    // The file is over and five good ones were not among its strikes.
    await page.keyboard.press('Escape');
    await page.getByRole('dialog').waitFor({ state: 'hidden' });
    console.log(JSON.stringify({ complete: false }));
    return;
  }
  await lane(page, 'Hear').getByText('5 strikes', { exact: false }).first().waitFor();
  if (round === 'open') {
    await lane(page, 'Do').getByRole('button', { name: 'It is on' }).click();
    await page.getByRole('heading', { name: `Hit the ${drum} 5 times again.` }).waitFor();
  }
  if (round === 'treated') await lane(page, 'Do').getByRole('table', { name: 'Expected beside found' }).waitFor();
  console.log(JSON.stringify({ complete: true }));
});
