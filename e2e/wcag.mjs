// A page as it stands against WCAG 2.2 AA, and against the width of the screen.
import { AxeBuilder } from '@axe-core/playwright';
import { ensure } from './browser.mjs';

const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];

export async function check(page, where) {
  // A colour on its way from one to the other is neither.
  await page.evaluate(() => Promise.allSettled(document.getAnimations().map((each) => each.finished)));
  const { violations } = await new AxeBuilder({ page }).withTags(RULES).analyze();
  const said = violations.map((each) => `${each.id}: ${each.nodes.map((node) => node.html).join(' | ')}`);
  ensure(violations.length === 0, `${where}: ${said.join('\n')}`);
  const wider = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  ensure(wider <= 0, `${where}: ${wider} px wider than the screen`);
}
