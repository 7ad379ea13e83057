// A page as it stands against WCAG 2.2 AA, and against the width of the screen.
import { AxeBuilder } from '@axe-core/playwright';
import { ensure } from './browser.mjs';

const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];

/** Holds the page against all rules, or against `rules` alone. */
export async function check(page, where, rules) {
  // A colour on its way from one to the other is neither.
  await page.evaluate(() => Promise.allSettled(document.getAnimations().map((each) => each.finished)));
  // Its usual mode opens a page of its own each time, for frames from elsewhere; here there are none.
  const axe = new AxeBuilder({ page }).setLegacyMode();
  const { violations } = await (rules ? axe.withRules(rules) : axe.withTags(RULES)).analyze();
  const said = violations.map((each) => `${each.id}: ${each.nodes.map((node) => node.html).join(' | ')}`);
  ensure(violations.length === 0, `${where}: ${said.join('\n')}`);
  const wider = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  ensure(wider <= 0, `${where}: ${wider} px wider than the screen`);
}
