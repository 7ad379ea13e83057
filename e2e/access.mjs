// Every view against WCAG 2.2 AA: node access.mjs URL WIDTH HEIGHT THEMES
// The dark theme (charcoal) against all rules; the light one (daylight), in which nothing but colours differs, against those of colour.
import { browse, heard } from './browser.mjs';
import { check as checked } from './wcag.mjs';

const [url, width, height, ...themes] = process.argv.slice(2);
const size = { width: Number(width), height: Number(height) };

async function closed(page) {
  await page.keyboard.press('Escape');
  await page.getByRole('dialog').waitFor({ state: 'hidden' });
}

await browse(
  url,
  [],
  async (_, page) => {
    await page.getByRole('button', { name: /^Rack tom/ }).waitFor();
    for (const theme of themes) {
      const where = (view) => `${view}, ${theme}, ${size.width} px`;
      const rules = theme === 'daylight' ? ['color-contrast', 'link-in-text-block'] : undefined;
      const check = (shown, view) => checked(shown, view, rules);
      // A drum with plans, one that was checked, one not measured.
      for (const [key, text] of [
        ['3', /get there|gets there|come nearest/],
        ['4', 'It did what was expected.|figures came out'],
        ['9', 'Plans appear here'],
      ]) {
        await page.keyboard.press(key);
        await page.getByText(new RegExp(text)).first().waitFor();
        await check(page, where(`drum ${key}`));
      }
      await page.keyboard.press('s');
      await check(page, where('shelf'));
      await page.keyboard.press('5');
      await page.keyboard.press('x');
      await page.getByRole('button', { name: /^a 5 in hole/ }).click();
      await check(page, where('front head'));
      for (const tab of ['Fill instead', 'Tune instead', 'How to strike it', 'Where, and cutting']) {
        await page.getByRole('tab', { name: tab }).click();
        await page.waitForTimeout(300);
        if (tab === 'Tune instead') await page.getByRole('button', { name: /a whole tone higher/ }).click();
        await check(page, where(tab));
      }
      await page.getByRole('tab', { name: 'Ways to close it' }).click();
      await page.keyboard.press('b');
      // A head that was tapped, the kit's pitches, and the guide.
      await page.keyboard.press('3');
      await page.keyboard.press('k');
      await page.getByRole('heading', { name: 'Tune the Rack tom' }).waitFor();
      if (await page.getByText('Not tapped yet.').isVisible()) {
        await page.keyboard.press('i');
        await page.getByText('1 of 6 lugs heard').waitFor();
        await check(page, where('tapping'));
        await heard(page);
      }
      await page.getByText(/^(Lugs differ by|Even within)/).waitFor();
      await page.getByText('Exact figures of every lug').click();
      await page.getByText('I turned something else').click();
      await page.getByText('What another head would do in its place').click();
      await page.getByRole('button', { name: 'New head …' }).click();
      await check(page, where('tune'));
      await page.getByRole('button', { name: 'Whole kit' }).click();
      await page
        .getByText(/rod about|as it is|nothing/)
        .first()
        .waitFor();
      await check(page, where('kit pitches'));
      await page.getByRole('button', { name: 'Batter', exact: true }).click();
      await page.keyboard.press('r');
      await page.getByText('step 1 of 6').waitFor();
      await check(page, where('seating guide'));
      await closed(page);
      await page.keyboard.press('e');
      await page.getByText('Shell, hoops, air vents').click();
      await check(page, where('drum editor'));
      await closed(page);
      await page.keyboard.press('1');
      await page.getByRole('region', { name: 'Snare wires' }).waitFor();
      await check(page, where('snare'));
      await page.keyboard.press('1');
      await page.keyboard.press('b');
      await page.keyboard.press('g');
      await page.getByRole('button', { name: /^Kick in Slack Tide/ }).waitFor();
      await check(page, where('evening'));
      await page.getByRole('button', { name: /^Kick in Slack Tide/ }).click();
      await page.waitForTimeout(500);
      await check(page, where('one drum in one song'));
      await closed(page);
      await page.getByRole('button', { name: 'Edit the list' }).click();
      await page.getByLabel('Find a song').waitFor();
      await check(page, where('set list'));
      await page.keyboard.press('v');
      await page.getByRole('dialog', { name: 'Stage view' }).waitFor();
      await check(page, where('stage view'));
      await closed(page);
      for (const [part, button] of [
        ['Songs', 'Add a song'],
        ['Songs', 'Take in a list'],
        ['Venues', 'Add a venue'],
        ['Genres', 'Make your own'],
      ]) {
        await page.getByRole('button', { name: part, exact: true }).click();
        await page.getByRole('button', { name: button }).waitFor();
        await check(page, where(part));
        await page.getByRole('button', { name: button }).click();
        await page.waitForTimeout(500);
        await check(page, where(button));
        await closed(page);
      }
      await page.getByRole('button', { name: 'Evening', exact: true }).click();
      await page.keyboard.press('?');
      await page.waitForTimeout(500);
      await check(page, where('keys'));
      await closed(page);
      await page.keyboard.press('n');
      await page.waitForTimeout(500);
      await check(page, where('new drum'));
      await closed(page);
      await page.keyboard.press('b');
      await page.keyboard.press('m');
    }
  },
  size,
);
