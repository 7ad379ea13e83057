// Tonight with nothing in it, with bad input, by keyboard alone and on a phone: node tonight_troubles.mjs URL STRIKES.wav
import { browse, ensure } from './browser.mjs';

const [url, wav] = process.argv.slice(2);

await browse(url, [], async (_, page) => {
  const part = (name) => page.getByRole('navigation', { name: 'Parts of tonight' }).getByRole('button', { name, exact: true }).click();

  // Nothing there yet: each part says what it is for and what to do first.
  await page.keyboard.press('g');
  await page.getByText('A set list puts songs in their order.', { exact: false }).waitFor();
  await page.keyboard.press('v');
  await page.getByText('There is no set list to step through yet.', { exact: false }).first().waitFor();
  await part('Venues');
  await page.getByText('No venues yet.', { exact: false }).waitFor();
  await part('Songs');
  await page.getByText('No songs yet.', { exact: false }).waitFor();
  ensure((await page.getByRole('link', { name: 'CSV' }).count()) === 0, 'nothing to write out');

  // Files that are no list are refused, and nothing is lost by it.
  await page.getByRole('button', { name: 'Take in a list' }).click();
  const taking = page.getByRole('dialog', { name: 'Take in a list of songs' });
  const give = (name, text) => taking.getByLabel('List of songs').setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });
  await give('empty.csv', '');
  await taking.getByText('empty.csv: The file is empty.').waitFor();
  await give('odd.csv', 'a,b\n1,2\n');
  await taking.getByText('odd.csv: The first line must name the columns', { exact: false }).waitFor();
  const many = ['title,genre,bpm', ...Array.from({ length: 5000 }, (_, i) => `Song ${i},rock,${60 + (i % 150)}`), 'Late,rock,0'].join('\n');
  await give('many.csv', many);
  await taking.getByText('5001 rows in many.csv; one of them needs a word from you.').waitFor();
  await taking.getByText('The tempo must be between 30 and 300 BPM.').waitFor();
  await taking.getByText('Show those only').click();
  ensure((await taking.getByRole('listitem').count()) <= 200, 'a long list is shown piece by piece');
  await taking.getByRole('button', { name: 'Take in 5000 songs' }).click();
  await page.getByText('5000 songs', { exact: true }).waitFor();
  ensure((await page.getByRole('button', { name: 'Play now' }).count()) === 100, 'a page of a hundred');
  await page.getByRole('button', { name: 'Show more of 5000' }).click();
  await page.waitForFunction(
    () => [...document.querySelectorAll('button')].filter((each) => each.textContent === 'Play now').length === 200,
  );
  await page.getByPlaceholder('Part of the title').fill('song 4999');
  await page.getByText('1 song', { exact: true }).waitFor();

  // The same list again: every song is known, none is taken twice unasked.
  await page.getByRole('button', { name: 'Take in a list' }).click();
  await give('many.csv', many);
  await taking.getByText('5001 rows in many.csv; 5001 of them need a word from you.').waitFor();
  ensure(await taking.getByRole('button', { name: 'Take in 0 songs' }).isDisabled(), 'nothing new, nothing taken');
  await page.keyboard.press('Escape');
  await page.getByPlaceholder('Part of the title').blur();

  // A set list whose drums are not measured names them; two songs of one list differ by their tempo.
  await part('Evening');
  await page.getByLabel('or make a new one').fill('Try');
  await page.keyboard.press('Enter');
  await page.getByLabel('Find a song').fill('song 17');
  await page
    .getByRole('button', { name: /^Song 17 / })
    .first()
    .click();
  await page.getByText('Tom: not measured open yet.', { exact: false }).waitFor();

  // A list can be put on it as it is, known songs in their place; and taken off again.
  await part('Songs');
  await page.getByRole('button', { name: 'Take in a list' }).click();
  await give('set.csv', 'title,genre,bpm\nBrand New,rock,101\nSong 3,rock,63\n');
  await taking.getByText('Put them on “Try” too', { exact: false }).click();
  await taking.getByRole('button', { name: 'Take in 1 song' }).click();
  await page.getByText('2 songs put on “Try”.').first().waitFor();
  await part('Evening');
  await page.getByText('Brand New').first().waitFor();
  await page.keyboard.press('u');
  await page.getByText('Brand New').first().waitFor({ state: 'hidden' });

  // Measured, it takes part at once.
  await page.keyboard.press('b');
  await page.getByLabel('Sound file').last().setInputFiles(wav);
  await page
    .getByText(/good strikes?\./)
    .first()
    .waitFor();
  await page.keyboard.press('g');
  const cell = page.getByRole('button', { name: /^Tom in Song 17: / });
  await cell.waitFor();

  // By keyboard alone: to the ribbon, into its dialog, a pin, and back by undo.
  await cell.focus();
  await page.keyboard.press('Enter');
  const dialog = page.getByRole('dialog', { name: 'Tom in Song 17' });
  await dialog.waitFor();
  await dialog.getByRole('button', { name: /^open/ }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /^Tom in Song 17: open, .*pinned$/ }).waitFor();
  await page.keyboard.press('u');
  await page.getByRole('button', { name: /^Tom in Song 17: (?!.*pinned)/ }).waitFor();
  await page.getByRole('radio', { name: /A few looks/ }).focus();
  await page.keyboard.press('ArrowRight');
  ensure(await page.getByRole('radio', { name: /No compromise/ }).isChecked(), 'arrows choose how it is weighed');

  // Removing the list can be undone too.
  await page.getByRole('button', { name: 'Edit the list' }).click();
  await page.getByRole('button', { name: 'Remove the list' }).click();
  await page.getByText('“Try” was removed. Its songs are kept.').first().waitFor();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await cell.waitFor();

  // A clap that nobody made, and a model sound that is none.
  await part('Venues');
  await page.getByRole('button', { name: 'Add a venue' }).click();
  const venue = page.getByRole('dialog', { name: 'A new venue' });
  await venue
    .getByLabel('Clap and listen: sound file')
    .setInputFiles({ name: 'clap.wav', mimeType: 'audio/wav', buffer: Buffer.from('RIFF') });
  await venue.getByRole('alert').waitFor();
  await venue.getByLabel('The room').selectOption({ label: 'Reverberation times that I know' });
  await venue.getByLabel('Name').fill('Shed');
  for (const box of await venue.getByLabel(/^Seconds at/).all()) await box.fill('');
  await venue.getByRole('button', { name: 'Add it' }).click();
  await venue.getByText('Type at least one reverberation time', { exact: false }).waitFor();
  await venue.getByLabel('Seconds at 500 Hz').fill('0.8');
  await venue.getByRole('button', { name: 'Add it' }).click();
  await page.getByRole('heading', { name: 'Shed' }).waitFor();
  await part('Genres');
  await page.getByRole('button', { name: 'Make your own' }).click();
  const genre = page.getByRole('dialog', { name: 'A genre of your own' });
  await genre.getByLabel('Name').fill('Shed rock');
  await genre.getByText('Toms', { exact: true }).click();
  await genre.getByLabel('Model sound').setInputFiles(wav);
  await genre.getByText('Toms as in strikes.wav.', { exact: false }).waitFor();
  await genre.getByRole('button', { name: 'Add it' }).click();
  await page.getByRole('heading', { name: /^Shed rock/ }).waitFor();
});

// On a phone nothing that is pressed is smaller than a fingertip (WCAG 2.2, 2.5.8: 24 px), and nothing is wider than the screen.
await browse(
  url,
  [],
  async (_, page) => {
    // Tonight waits for a kit that is slow to come.
    const slow = async (route) => {
      await new Promise((done) => setTimeout(done, 2000));
      await route.continue();
    };
    await page.route('**/api/v1/kit', slow, { times: 1 });
    await page.reload();
    await page.getByRole('button', { name: 'Tonight' }).click();
    await page.getByRole('button', { name: /^Tom in Song 17: / }).waitFor();
    for (const part of ['Evening', 'Songs', 'Venues', 'Genres']) {
      await page.getByRole('button', { name: part, exact: true }).click();
      await page.waitForTimeout(400);
      for (const button of await page.locator('main').getByRole('button').all()) {
        const box = await button.boundingBox();
        if (box) ensure(box.width >= 24 && box.height >= 24, `${part}, ${await button.textContent()}: ${box.width} x ${box.height}`);
      }
      ensure(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), `${part} is wider than the screen`);
    }
  },
  { width: 390, height: 844 },
);
