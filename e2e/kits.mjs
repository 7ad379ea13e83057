// Several kits: a travelling kit, a club's house kit, thirteen pieces, and a kick that was bought with a hole: node kits.mjs URL
import { browse, ensure, until } from './browser.mjs';
import { check } from './wcag.mjs';

const [url] = process.argv.slice(2);

await browse(url, [], async (_, page) => {
  const strip = page.getByRole('navigation', { name: 'Kit, in playing order' });
  const pieces = strip.locator('[aria-label*=":"]').filter({ hasNotText: /^Kit/ });
  const dialog = page.getByRole('dialog', { name: 'Your kits' });
  const done = () => dialog.getByRole('button', { name: 'Done' }).click();
  const count = async (wanted, what) => {
    await page.waitForFunction(
      ([selector, wanted]) => document.querySelectorAll(selector).length === wanted,
      ['nav[aria-label="Kit, in playing order"] button[aria-label*=": "]:not([aria-label^="Kit:"])', wanted],
    );
    ensure((await pieces.count()) === wanted, what);
  };
  await strip.getByRole('button', { name: /^Kit: Deck kit/ }).waitFor();
  await count(9, 'the deck kit has nine pieces');

  // Cymbals are left as they are, and count as ready.
  await strip.getByRole('button', { name: /^Ride: (fits|left as it is)/ }).waitFor();

  // A travelling kit of drums that are there already.
  await page.keyboard.press('q');
  await dialog.getByRole('radio', { name: /Gangway kit/ }).waitFor();
  await check(page, 'kits');
  // The address knows what is open: it is open again after Reload.
  ensure(page.url().endsWith('?open=kits'), page.url());
  await page.reload();
  await dialog.getByRole('radio', { name: /Gangway kit/ }).waitFor();
  await page.keyboard.press('Escape');
  await until(() => !page.url().includes('?open='), 'a closed dialog leaves the address');
  await page.keyboard.press('q');
  await dialog.getByRole('button', { name: 'Another kit' }).click();
  await dialog.getByLabel('Name').fill('Travelling kit');
  await dialog.getByRole('button', { name: 'Begin it' }).click();
  await dialog.getByText('Nothing in it yet: put drums in').waitFor();
  for (const name of ['Rack tom', 'Trunk kick', 'Deck snare'])
    await dialog
      .getByRole('button', { name: new RegExp(`^${name}`) })
      .last()
      .click();
  const rows = dialog.getByRole('list', { name: 'Drums of the kit in playing order' }).getByRole('listitem');
  await rows.nth(2).waitFor();
  await dialog.getByRole('button', { name: 'Deck snare up' }).click();
  await rows.nth(1).filter({ hasText: 'Deck snare' }).waitFor();
  await check(page, 'a kit being put together');
  await done();
  await count(3, 'the travelling kit has three drums');

  // A drum in its case asks for nothing, and is set up in one press.
  await page.keyboard.press('q');
  await rows.nth(1).getByLabel('set up').uncheck();
  await done();
  await strip.getByRole('button', { name: /^Deck snare: in its case/ }).click();
  await page.getByRole('heading', { name: 'The Deck snare stays in its case.' }).waitFor();
  await page.getByRole('button', { name: 'Set it up' }).click();
  await strip.getByRole('button', { name: /^Deck snare: (fits|nearly fits|does not fit)/ }).waitFor();

  // The club's own kit: not opened, not cut, nothing left sticky.
  await page.keyboard.press('q');
  await dialog.getByRole('button', { name: 'Another kit' }).click();
  await dialog.getByLabel('Name').fill('Saloon kit');
  await dialog.getByLabel('Begins with').selectOption({ label: 'new drums: Club kit' });
  await dialog.getByText('It is not mine').click();
  await dialog.getByRole('button', { name: 'Begin it' }).click();
  await dialog.getByLabel('House kit of').selectOption({ label: 'Saloon' });
  await done();
  await page.getByText('Saloon kit is not yours', { exact: false }).waitFor();
  const inside = page.getByLabel('Nothing inside');
  ensure((await inside.isChecked()) && (await inside.isDisabled()), 'a house kit is not opened');
  await check(page, 'a house kit');
  await page.keyboard.press('q');
  await dialog.getByRole('radio', { name: /Deck kit/ }).click();
  await dialog.getByRole('button', { name: 'Play on it tonight' }).click();
  await done();
  await count(9, 'the deck kit is back');
  await page.getByText('The Saloon has a kit of its own: Saloon kit.').waitFor();

  // Thirteen pieces: all names whole, all with a key.
  await page.keyboard.press('q');
  const others = dialog.getByRole('heading', { name: 'Put in' }).locator('xpath=following-sibling::div[1]').getByRole('button');
  for (let n = 9; n < 13; n++) {
    await others.first().click();
    await rows.nth(n).waitFor();
  }
  await done();
  await count(13, 'thirteen pieces');
  const cut = await strip.evaluate((nav) => {
    const names = [...nav.querySelectorAll('.display')].filter((name) => name.scrollHeight > name.clientHeight + 2);
    return { sideways: nav.scrollWidth > nav.clientWidth, names: names.map((name) => name.textContent) };
  });
  ensure(!cut.sideways && cut.names.length === 0, `nothing of the strip is cut: ${JSON.stringify(cut)}`);
  const chosen = () => strip.locator('[aria-current=true]').getAttribute('aria-label');
  const nameAt = async (at) => (await pieces.nth(at).getAttribute('aria-label')).split(':')[0];
  await page.keyboard.press('0');
  await page.waitForFunction((name) => document.querySelector('[aria-current=true]')?.ariaLabel?.startsWith(name), await nameAt(9));
  await page.keyboard.press('Shift+Digit3');
  await page.waitForFunction((name) => document.querySelector('[aria-current=true]')?.ariaLabel?.startsWith(name), await nameAt(12));
  ensure((await chosen()).startsWith(await nameAt(12)), 'Shift and 3 is the thirteenth');
  await check(page, 'thirteen pieces');

  // A drum is wanted in a drummer's word, its figures can be changed, and all of it taken back.
  await strip.getByRole('button', { name: /^Kick: (fits|nearly fits|does not fit)/ }).click();
  const want = page.getByRole('region', { name: 'Want' });
  const word = want.getByLabel('How you want this drum');
  await word.selectOption('dry');
  await want.getByText('You want it dry', { exact: false }).first().waitFor();
  await want.getByRole('button', { name: 'Change the figures' }).click();
  await want.getByLabel('Body, times the genre’s').fill('0.8');
  await want.getByLabel('Body, times the genre’s').press('Tab');
  await want.getByText('body 0.8 times as long', { exact: false }).first().waitFor();
  await check(page, 'a drum wanted in figures');
  await page.getByRole('button', { name: 'Undo' }).click();
  await want.getByText('body 0.6 times as long', { exact: false }).first().waitFor();
  await word.selectOption('as_it_is');
  await want.getByText('As you liked it', { exact: false }).first().waitFor();
  await word.selectOption('genre');
  await want.getByText('As you liked it', { exact: false }).first().waitFor({ state: 'detached' });

  await page.getByText('Nothing needed: leave it open.').waitFor();

  // A napkin is taped to the front head from outside, and swapped for something else in one step.
  await page.keyboard.press('y');
  const own = page.getByRole('article', { name: 'Lay it out yourself' });
  await own.getByRole('button', { name: 'taped tissue' }).click();
  await own.getByLabel('on the front head').check();
  await own.getByText('on the front head, at', { exact: false }).first().waitFor();
  ensure((await page.locator('kbd:visible', { hasText: /^D$/ }).count()) === 1, 'one thing at a time is done by D');
  await own.getByLabel('Swap the taped tissue for').selectOption('gel_pad');
  await own.getByText('gel pad: on the front head', { exact: false }).first().waitFor();
  await check(page, 'a layout on both heads');
  await page.keyboard.press('y');

  // A kick that was bought with a hole in its front head.
  await page.keyboard.press('n');
  const editor = page.getByRole('dialog', { name: 'A new drum' });
  await editor.getByLabel('Name').fill('Bought kick');
  await editor.getByText('Kick', { exact: true }).click();
  await editor.getByRole('button', { name: 'The front head has a hole' }).click();
  await editor.getByLabel('Hole, in across').fill('30');
  await editor.getByRole('button', { name: 'Add it' }).click();
  ensure(await editor.isVisible(), 'a hole larger than its head is refused');
  await editor.getByLabel('Hole, in across').fill('5');
  await editor.getByRole('button', { name: 'Add it' }).click();
  await strip.getByRole('button', { name: /^Bought kick: not measured/ }).waitFor();
  await page.keyboard.press('e');
  ensure((await page.getByRole('dialog').getByLabel('Hole, in across').inputValue()) === '5', 'the hole is kept');
  await check(page, 'a kick with a hole in the editor');
  await page.keyboard.press('Escape');
  await page.keyboard.press('x');
  await page.getByText('Measure the open drum first', { exact: false }).first().waitFor();
  await page.keyboard.press('b');

  // What lies in a drum and stays there makes it another one to be measured.
  await strip.getByRole('button', { name: /^Kick: (fits|nearly fits|does not fit)/ }).click();
  await page.keyboard.press('e');
  const edit = page.getByRole('dialog', { name: 'Edit the drum' });
  await edit.getByLabel('Always inside').selectOption('pillow');
  await edit.getByText('A second shell stands in front').click();
  await edit.getByRole('button', { name: 'Save' }).click();
  await page.getByRole('heading', { name: 'Hit the Kick' }).waitFor();
  await page.keyboard.press('e');
  await edit.getByLabel('Always inside').selectOption('');
  await edit.getByText('A second shell stands in front').click();
  await edit.getByRole('button', { name: 'Save' }).click();
  await page.getByRole('heading', { name: /It fits as it is/ }).waitFor();

  // A hi-hat is heard open, half open and closed, each by itself.
  const hear = page.getByRole('region', { name: 'Hear' });
  await strip.getByRole('button', { name: /^Hi-hat:/ }).click();
  await hear.getByText('Wash', { exact: true }).waitFor();
  await hear.getByRole('button', { name: 'closed' }).click();
  await hear.getByText('Not heard yet.', { exact: false }).waitFor();
  await check(page, 'a hi-hat by how it is struck');
  await page.getByRole('button', { name: 'Undo' }).click();
  await hear.getByText('Wash', { exact: true }).waitFor();

  // Groups have names, also in the strip.
  await page.keyboard.press('q');
  await dialog.getByRole('button', { name: 'Begin a group with the Hi-hat' }).click();
  await dialog.getByLabel('Name of the group that begins with the Hi-hat').fill('Metal');
  await dialog.getByLabel('Name of the group that begins with the Hi-hat').press('Tab');
  await strip.getByText('Metal', { exact: true }).waitFor();
  await rows.filter({ hasText: 'Trunk kick' }).getByLabel('set up').uncheck();
  await done();
  await check(page, 'a kit in groups');

  // A kick that stays in its case is played in one song.
  await page.keyboard.press('g');
  await page.getByRole('button', { name: /^Kick in Gangway Cumbia/ }).click();
  await page.getByRole('button', { name: 'Play the Trunk kick in its place' }).click();
  await page.getByText('Swap: Trunk kick for the Kick').first().waitFor();
  await page.getByText('Swap: Kick for the Trunk kick').first().waitFor();
  await page.getByRole('button', { name: /^Kick in Gangway Cumbia: Trunk kick plays in its place/ }).waitFor();
  await check(page, 'an evening with a swap');

  // Something broke on the stage.
  await page.keyboard.press('.');
  const broke = page.getByRole('dialog', { name: 'Something broke' });
  await broke.getByText('counter-hoop', { exact: false }).first().waitFor();
  await broke.getByRole('button', { name: 'Snare wires' }).click();
  ensure((await broke.getByText('counter-hoop', { exact: false }).count()) === 0, 'only what broke is shown');
  await check(page, 'emergency repairs');
  await page.keyboard.press('Escape');
});
console.log('a travelling kit, a house kit, thirteen pieces, a kick with a hole, groups, swaps and what to do when something breaks');
