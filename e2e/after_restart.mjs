// What the story left behind is still there: node after_restart.mjs URL
import { browse, ensure, lane } from './browser.mjs';

const [url] = process.argv.slice(2);

await browse(url, [], async (_, page) => {
  await page.getByRole('button', { name: /^Wood snare/ }).click();
  await lane(page, 'Do').getByRole('table', { name: 'Expected beside found' }).waitFor();
  ensure((await page.getByLabel('Tempo, beats a minute').inputValue()) === '190', 'tempo');
  const hear = lane(page, 'Hear');
  await hear.getByText('Takes (2)').click();
  await hear.getByText(/as it is now, simulated drum/).click();
  const strikes = hear.getByRole('listitem').filter({ hasText: /^ *Strike \d/ });
  await strikes.nth(4).waitFor();

  // The kept sound plays.
  await hear.getByRole('button', { name: 'Play strike 1' }).first().click();
  await page.waitForFunction(() => {
    const audio = document.querySelector('audio[src]');
    return audio && audio.duration > 0.3 && audio.currentTime > 0;
  });

  // A strike left out no longer counts, until it is taken back in.
  await strikes.first().getByRole('button', { name: 'Leave it out' }).click();
  await hear.getByText(/now: 4 strikes/).waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  await hear.getByText(/now: 5 strikes/).waitFor();

  // So is what was entered for tonight: songs taken in, the short list, the venue that was measured.
  await page.keyboard.press('g');
  const part = (name) => page.getByRole('navigation', { name: 'Parts of tonight' }).getByRole('button', { name, exact: true }).click();
  await page.getByRole('button', { name: /^Deck snare in Slack Tide: / }).waitFor();
  ensure(
    (await page.getByRole('combobox', { name: 'Set list' }).locator('option').allTextContents()).includes('Short one'),
    'the new set list',
  );
  await part('Songs');
  await page.getByText('17 songs').waitFor();
  await page.getByRole('button', { name: /^🌊 شاطئ البحر/ }).waitFor();
  await part('Venues');
  await page.getByRole('listitem').filter({ hasText: 'Boat house' }).getByText('Measured: rings for', { exact: false }).waitFor();
});
