// Tonight as its users drive it: the evening, pins, songs in and out, venues, genres, the stage view: node tonight.mjs URL
import { browse, ensure } from './browser.mjs';

const [url] = process.argv.slice(2);
const LIST = `title,genre,bpm
Foam on the Rail,surf,150
🌊 شاطئ البحر,cumbia,98
Moon Polka,polka of the moon,120
No Tempo,surf,
`;

await browse(url, [], async (_, page) => {
  const part = (name) => page.getByRole('navigation', { name: 'Parts of tonight' }).getByRole('button', { name, exact: true }).click();
  const cell = (name) => page.getByRole('button', { name });
  // The address follows a moment after what it says.
  const addressed = (address) => page.waitForURL((url) => address.test(url.hash));
  const notice = (text) => page.getByText(text).first().waitFor();

  // The evening is worked out, and the two ends are there to be seen.
  await page
    .getByRole('button', { name: /^Rack tom/ })
    .first()
    .waitFor();
  await page.keyboard.press('g');
  await cell(/^Kick in Slack Tide: /).waitFor();
  await page.getByRole('radio', { name: /One setup for all.*no changes/ }).check();
  ensure((await page.getByText(/changing takes/).count()) === 0, 'one setup is one setup');
  await page.getByRole('radio', { name: /No compromise.*gaps? too short/ }).check();
  await page
    .getByText(/changing takes .* there are/)
    .first()
    .waitFor();
  await page.getByRole('radio', { name: /A few looks/ }).check();

  // A song stays like this, and no longer.
  await cell(/^Kick in Foam on the Rail: /).click();
  const dialog = page.getByRole('dialog', { name: /^Kick in Foam on the Rail/ });
  await dialog.waitFor();
  await addressed(/^#\/tonight\/evening\?open=cell&of=\d+\.\d+$/);
  await page.reload();
  await dialog.getByRole('button', { name: /^open/ }).click();
  await cell(/^Kick in Foam on the Rail: open, .*pinned/).waitFor();
  await page.keyboard.press('u');
  await cell(/^Kick in Foam on the Rail: (?!.*pinned)/).waitFor();

  // A drum is out for a song, and in again.
  await cell(/^Kick in Foam on the Rail: /).click();
  await dialog.getByRole('button', { name: 'Leave it out of this song' }).click();
  await cell(/^Kick in Foam on the Rail: not played/).click();
  await dialog.getByRole('button', { name: 'It is played' }).click();
  await cell(/^Kick in Foam on the Rail: (?!not played)/).waitFor();

  // The plan is kept to, and let go of again.
  await page.getByRole('button', { name: 'Keep to this plan' }).click();
  await page.getByText('You keep to this plan', { exact: false }).waitFor();
  await page.getByRole('button', { name: 'Plan it anew' }).click();
  await page.getByRole('button', { name: 'Keep to this plan' }).waitFor();

  // Every view has an address: Back leads from view to view, and closes what lies over one first.
  await addressed(/^#\/tonight\/evening$/);
  await part('Songs');
  await addressed(/^#\/tonight\/songs$/);
  ensure((await page.title()) === 'Songs · Soft Ember', await page.title());
  await page.getByRole('button', { name: 'Add a song' }).click();
  await page.getByRole('dialog', { name: 'A new song' }).waitFor();
  await page.goBack();
  await page.getByRole('dialog', { name: 'A new song' }).waitFor({ state: 'hidden' });
  await addressed(/^#\/tonight\/songs$/);
  await page.goBack();
  await cell(/^Kick in Slack Tide: /).waitFor();
  await page.reload();
  await cell(/^Kick in Slack Tide: /).waitFor();

  // A louder place covers more: other wishes, other figures, at once.
  const worked = () => page.waitForResponse((response) => response.url().endsWith('/evening') && response.ok());
  const kit = page.getByRole('navigation', { name: 'Kit, in playing order' });
  const before = await kit.innerText();
  await Promise.all([worked(), page.getByLabel('Where').selectOption({ label: 'Stern deck' })]);
  ensure((await kit.innerText()) !== before, 'the kit is held against the new place');
  await Promise.all([worked(), page.getByLabel('Where').selectOption({ label: 'Saloon' })]);

  // What is to be done is read from two metres: capitals of 16 minutes of arc are 9.3 mm high, 35 px at 96 to the inch.
  await page.keyboard.press('PageDown');
  const capital = await page
    .getByRole('dialog', { name: 'Stage view' })
    .locator('.big')
    .first()
    .evaluate((element) => {
      const { fontFamily, fontSize, fontWeight } = getComputedStyle(element);
      const context = document.createElement('canvas').getContext('2d');
      context.font = `${fontWeight} ${fontSize} ${fontFamily}`;
      return context.measureText('H').actualBoundingBoxAscent;
    });
  ensure(capital >= 35, `capitals of ${capital} px`);
  await page.keyboard.press('Escape');

  // Pedals step through the evening; it ends, and the keys are the page's own again.
  await page.keyboard.press('PageDown');
  const stage = page.getByRole('dialog', { name: 'Stage view' });
  await stage.getByRole('heading', { name: 'Lantern Waltz' }).waitFor();
  await page.keyboard.press('PageDown');
  await stage.getByRole('heading', { name: 'Waltz of the Moored Boat' }).waitFor();
  // Gone back, what was put on for the first song is still on; from the top nothing is.
  await page.keyboard.press('ArrowLeft');
  await stage.getByText('Nothing to change.').waitFor();
  await page.keyboard.press('PageDown');
  await stage.getByRole('button', { name: 'From the top' }).click();
  await stage.getByText('Before you begin').waitFor();
  await stage
    .getByRole('button', { name: / is done$/ })
    .first()
    .click();
  await page.keyboard.press('PageDown');
  await stage.getByRole('heading', { name: 'Waltz of the Moored Boat' }).waitFor();
  // A page that is loaded anew has not lost the place, nor what is on.
  const on = await stage.getByLabel('What is on now').innerText();
  await page.reload();
  await stage.getByRole('heading', { name: 'Waltz of the Moored Boat' }).waitFor();
  ensure((await stage.getByLabel('What is on now').innerText()) === on, 'what is on is remembered');
  for (let step = 0; step < 30; step++) await page.keyboard.press('PageDown');
  await stage.getByRole('heading', { name: 'That was the evening.' }).waitFor();
  await page.keyboard.press('Escape');
  await stage.waitFor({ state: 'hidden' });
  // Who plays keeps to the plan: what was played stays as it was.
  await page.getByText('You keep to this plan', { exact: false }).waitFor();
  await page.getByRole('button', { name: 'Plan it anew' }).click();
  await page.getByRole('button', { name: 'Keep to this plan' }).waitFor();

  // A list comes in: every row is answered, nothing is dropped or doubled unasked.
  await part('Songs');
  await page.getByText('14 songs').waitFor();
  await page.getByRole('button', { name: 'Take in a list' }).click();
  const taking = page.getByRole('dialog', { name: 'Take in a list of songs' });
  await taking.getByLabel('List of songs').setInputFiles({ name: 'band.csv', mimeType: 'text/csv', buffer: Buffer.from(LIST) });
  await taking.getByText('4 rows in band.csv; 3 of them need a word from you.').waitFor();
  await taking.getByText('You have a song of this name; this one differs.').waitFor();
  await taking.getByText('There is no genre "polka of the moon". It would be taken as general.').waitFor();
  await taking.getByText('It has no tempo.').waitFor();
  await taking.getByLabel('What to do with line 4').selectOption('add');
  await taking.getByRole('button', { name: 'Take in 2 songs' }).click();
  await notice('2 songs taken in, 2 left out.');
  await page.getByText('16 songs').waitFor();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'CSV' }).click()]);
  ensure(download.suggestedFilename() === 'songs.csv', download.suggestedFilename());

  // A song is made, found, played and removed; removing can be undone.
  await page.getByRole('button', { name: 'Add a song' }).click();
  const editor = page.getByRole('dialog', { name: 'A new song' });
  await editor.getByLabel('Title').fill('Bollard Stomp');
  await editor.getByLabel('Meter').fill('7/9');
  await editor.getByRole('button', { name: 'Add it' }).click();
  await editor.getByText('"7/9" is no meter.', { exact: false }).waitFor();
  await editor.getByLabel('Meter').fill('6/8');
  await editor.getByRole('button', { name: 'Add it' }).click();
  await page.getByText('17 songs').waitFor();
  await page.getByPlaceholder('Part of the title').fill('bollard');
  await page.getByText('1 song', { exact: true }).waitFor();
  await page.getByRole('button', { name: 'Play now' }).click();
  await page.getByText('played now').waitFor();
  // The open song stands in the address: Reload opens it again, and Back closes it.
  await page.getByRole('button', { name: /^Bollard Stomp/ }).click();
  const edited = page.getByRole('dialog', { name: 'Edit the song' });
  await edited.waitFor();
  await addressed(/^#\/tonight\/songs\?open=song&of=\d+$/);
  await page.reload();
  await edited.waitFor();
  ensure((await edited.getByLabel('Title').inputValue()) === 'Bollard Stomp', 'the song is opened again');
  await page.goBack();
  await edited.waitFor({ state: 'hidden' });
  await addressed(/^#\/tonight\/songs$/);
  // An address of what is gone says so, and shows the list.
  await page.goto(`${url}/#/tonight/venues?open=venue&of=9999`);
  await notice('That is not there any more.');
  ensure((await page.getByRole('dialog').count()) === 0, 'no dialog without a venue');
  await page.goto(`${url}/#/tonight/songs`);
  await page.getByPlaceholder('Part of the title').fill('bollard');
  await page.getByText('1 song', { exact: true }).waitFor();
  await page.getByRole('button', { name: /^Bollard Stomp/ }).click();
  await edited.getByRole('button', { name: 'Remove it' }).click();
  await page.getByText('No song has “bollard” in its title.').waitFor();
  await page.keyboard.press('u');
  await page.getByRole('button', { name: /^Bollard Stomp/ }).waitFor();
  await page.getByPlaceholder('Part of the title').fill('foam');
  // The server looks for it: until it has answered, the one row is still the song from before.
  await page.getByRole('button', { name: /^Foam on the Rail/ }).waitFor();
  await page.getByRole('button', { name: 'Play now' }).click();
  await page.getByText('played now').waitFor();
  await page.getByPlaceholder('Part of the title').blur();

  // An empty set list says what it is for; a song on it is worked out.
  await part('Evening');
  await page.getByRole('combobox', { name: 'Set list' }).selectOption({ label: 'No set list' });
  await page.getByLabel('or make a new one').fill('Short one');
  await page.getByRole('button', { name: 'Make it' }).click();
  await page.getByText('Nothing on it yet').waitFor();
  await page.getByRole('button', { name: /^🌊/ }).click();
  await cell(/^Rack tom in 🌊 شاطئ البحر: /).waitFor();
  await page.getByRole('combobox', { name: 'Set list' }).selectOption({ label: 'Evening crossing' });
  await cell(/^Kick in Slack Tide: /).waitFor();

  // A venue is measured with the simulated place.
  await part('Venues');
  await page.getByRole('button', { name: 'Add a venue' }).click();
  const venue = page.getByRole('dialog', { name: 'A new venue' });
  await venue.getByLabel('Name').fill('Boat house');
  await venue.getByRole('button', { name: 'Simulated' }).first().click();
  await venue.getByText('3 claps heard', { exact: false }).waitFor();
  await venue.getByRole('button', { name: 'Simulated' }).nth(1).click();
  await venue.getByText('The band is measured.').waitFor();
  await venue.getByRole('button', { name: 'Add it' }).click();
  await page.getByRole('heading', { name: 'Boat house' }).waitFor();

  // A genre is changed, and comes back as it was.
  await part('Genres');
  await page.getByRole('button', { name: 'Edit Cumbia' }).click();
  const genre = page.getByRole('dialog', { name: 'Edit the genre' });
  await genre.getByLabel('Usual tempo, BPM').fill('104');
  await genre.getByRole('button', { name: 'Save' }).click();
  await page.getByText('changed by you').waitFor();
  await page.getByRole('button', { name: 'Edit Cumbia' }).click();
  await genre.getByRole('button', { name: 'As it came' }).click();
  await page.getByText('changed by you').waitFor({ state: 'hidden' });

  // On paper the evening is its card.
  await part('Evening');
  await cell(/^Kick in Slack Tide: /).waitFor();
  await page.emulateMedia({ media: 'print' });
  await page.getByRole('heading', { name: 'Evening crossing, Saloon' }).waitFor();
  ensure(!(await cell(/^Kick in Slack Tide: /).isVisible()), 'the strip is not printed');
  await page.emulateMedia({ media: 'screen' });
});
