// Every view in both themes, wide and narrow, against WCAG 2.2 AA: node access.mjs URL
import { AxeBuilder } from '@axe-core/playwright';
import { browse, ensure } from './browser.mjs';

const [url] = process.argv.slice(2);
const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];

async function check(page, where) {
  const { violations } = await new AxeBuilder({ page }).withTags(RULES).analyze();
  const said = violations.map((each) => `${each.id}: ${each.nodes.map((node) => node.html).join(' | ')}`);
  ensure(violations.length === 0, `${where}: ${said.join('\n')}`);
  const wider = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  ensure(wider <= 0, `${where}: ${wider} px wider than the screen`);
}

async function closed(page) {
  await page.keyboard.press('Escape');
  await page.getByRole('dialog').waitFor({ state: 'hidden' });
}

for (const size of [
  { width: 1280, height: 800 },
  { width: 360, height: 740 },
]) {
  await browse(
    url,
    [],
    async (_, page) => {
      await page.getByRole('button', { name: /^Rack tom/ }).waitFor();
      for (const theme of ['charcoal', 'daylight']) {
        const where = (view) => `${view}, ${theme}, ${size.width} px`;
        // A drum with plans, one that was checked, one not measured.
        for (const [key, text] of [
          ['2', /get there|gets there|come nearest/],
          ['3', 'It did what was expected.|figures came out'],
          ['1', 'Plans appear here'],
        ]) {
          await page.keyboard.press(key);
          await page.getByText(new RegExp(text)).first().waitFor();
          await check(page, where(`drum ${key}`));
        }
        await page.keyboard.press('s');
        await check(page, where('shelf'));
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
}
