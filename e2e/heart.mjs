// Heard first, laid out by hand, learned: node heart.mjs URL. Leaves the kit as it found it.
import { browse, ensure, lane } from './browser.mjs';

const [url] = process.argv.slice(2);

await browse(url, ['--autoplay-policy=no-user-gesture-required'], async (_, page) => {
  await page.getByRole('navigation', { name: 'Kit, in playing order' }).getByRole('button').first().waitFor();
  await page.keyboard.press('3');
  const plans = lane(page, 'Do');
  await plans.getByRole('button', { name: 'Hear it first' }).waitFor();

  // Open and expected in step; the pedal's key changes between them, and each can be kept.
  await page.keyboard.press('a');
  const dialog = page.getByRole('dialog', { name: /^Hear it first/ });
  await dialog.getByRole('button', { name: 'Stop' }).waitFor();
  const [open, expected] = [/^Wide open body \d/, /^Expected body \d/].map((name) => dialog.getByRole('button', { name }));
  ensure((await expected.getAttribute('aria-pressed')) === 'true', 'what is new is heard first');
  await page.keyboard.press('PageDown');
  ensure((await open.getAttribute('aria-pressed')) === 'true', 'the pedal changes over');
  await dialog.getByRole('radio', { name: 'In a groove' }).check();
  await dialog.getByText(/^with .*Kick/).waitFor();
  await dialog.getByRole('button', { name: 'Stop' }).click();
  await dialog.getByRole('button', { name: 'Play' }).waitFor();
  const file = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Expected (WAV)' }).click();
  ensure((await file).suggestedFilename() === 'Rack tom expected.wav', 'a sound file');
  await page.keyboard.press('Escape');

  // Laid out by keys and by hand; what it should do follows.
  await page.keyboard.press('y');
  const layout = plans.getByRole('article', { name: 'Lay it out yourself' });
  await layout.waitFor();
  for (;;) {
    const away = layout.getByRole('button', { name: /^Take the .* away$/ });
    if ((await away.count()) === 0) break;
    await away.click();
    await page.waitForTimeout(200);
  }
  await layout.getByText('Nothing lies on the head yet').waitFor();
  await layout.getByRole('button', { name: 'gel pad', exact: true }).click();
  const pad = layout.getByRole('button', { name: /^gel pad, at 12 o'clock, its middle a finger's width from the hoop .25 mm/ });
  await pad.waitFor();
  await lane(page, 'Hear').getByText('expected of “Your own layout”').waitFor();
  await pad.focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await layout.getByRole('button', { name: /^gel pad, .*its middle .*30 mm/ }).waitFor();
  const moved = layout.getByRole('button', { name: /^gel pad, / });
  const box = await moved.boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + 130, { steps: 8 });
  await page.mouse.up();
  await layout.getByRole('button', { name: /^gel pad, .*its middle .*\((8\d|9\d|1\d\d) mm/ }).waitFor();
  await layout.getByRole('button', { name: 'Step back' }).click();
  await layout.getByRole('button', { name: /^gel pad, at 12 o'clock, its middle .*\([23]\d mm/ }).waitFor();
  await layout.getByRole('button', { name: 'Improve from here' }).click();
  await page.waitForFunction(() => document.body.textContent.match(/Nothing near this layout is better|Improved\. /));

  // Done by key, and undone.
  await layout.getByRole('button', { name: 'It is on' }).click();
  await page.getByRole('heading', { name: 'Hit the Rack tom 5 times again.' }).waitFor();
  await page.keyboard.press('u');
  await page.getByRole('heading', { name: /^Put on/ }).waitFor();

  // Favourites that are in no plan are told why.
  await plans.getByText('Why not something else from the shelf?').click();
  await plans.locator('dt', { hasText: 'loose ring inside' }).waitFor();

  // After a check, the next small step; what was on the drum before has a name to be recalled by.
  await page.keyboard.press('4');
  await plans.getByRole('heading', { name: 'Next' }).waitFor();
  await plans.getByText(/^(Add a|Take the|Use the|No one step|It is as wanted)/).waitFor();
  await plans.getByText('Used before on this drum').click();
  const before = plans.getByRole('listitem').filter({ has: page.getByRole('heading', { name: 'hanging pad' }) });
  await before.getByRole('button', { name: 'Give it a name' }).click();
  await plans.getByRole('textbox', { name: 'What you call it' }).fill('  quay waltz ');
  await plans.getByRole('button', { name: 'Keep the name' }).click();
  await plans.getByRole('heading', { name: 'quay waltz' }).waitFor();
  await page.getByText('Kept as “quay waltz”.').first().waitFor();
  await page.keyboard.press('u');
  await plans.getByRole('heading', { name: 'hanging pad' }).waitFor();

  // A thing of one's own: refused in words, put on the shelf, tested, removed.
  await page.keyboard.press('s');
  const form = page.getByRole('listitem').filter({ has: page.getByRole('heading', { name: 'Something of your own' }) });
  await form.getByRole('button', { name: 'Add it' }).click();
  const fields = { Name: 'bar towel', 'Length, cm': '1', 'Width, cm': '1', 'Weight, g': '500' };
  for (const [name, value] of Object.entries(fields)) await form.getByLabel(name, { exact: true }).fill(value);
  await form.getByRole('button', { name: 'Put it on the shelf' }).click();
  await page
    .getByText(/too heavy for something of that size/)
    .first()
    .waitFor();
  await form.getByLabel('Length, cm').fill('22');
  await form.getByLabel('Width, cm').fill('16');
  await form.getByLabel('Weight, g').fill('31');
  await form.getByRole('button', { name: 'Put it on the shelf' }).click();
  const towel = page.getByRole('listitem').filter({ has: page.getByRole('heading', { name: 'bar towel' }) });
  await towel.getByText('22 × 16 cm, 31 g').waitFor();
  await towel.getByRole('button', { name: /^Test it on the/ }).click();
  await layout.getByRole('button', { name: /^bar towel, / }).waitFor();
  await page
    .getByText(/^Test 1 of 3: lay it as drawn/)
    .first()
    .waitFor();
  await page.keyboard.press('y');
  await page.keyboard.press('s');
  await towel.getByRole('button', { name: 'Remove it' }).click();
  await towel.waitFor({ state: 'detached' });

  // What is done to the head itself may be done or not: there is nothing to count.
  const slack = page.getByRole('listitem').filter({ has: page.getByRole('heading', { name: 'Set of slack lugs' }) });
  await slack.getByLabel('May be done').check();
  await page.reload();
  await page.keyboard.press('s');
  await slack.getByLabel('May be done').and(page.locator(':checked')).waitFor();
  await slack.getByRole('button', { name: /^Test it on the/ }).click();
  await page.getByText(/^Costs: attack .*, pitch −\d{3} cents, about 2 min/).waitFor();
  ensure((await page.getByText(/adds a turn of every rod/).count()) === 0, 'rods that were let down are not to be turned up');
  await page.keyboard.press('Escape');
  await page.keyboard.press('s');
  await slack.getByLabel('May be done').uncheck();

  // What a patch takes of the note is given back by a turn of every rod, which is laid out like a device.
  const patch = page.getByRole('listitem').filter({ has: page.getByRole('heading', { name: 'Centre patch' }) });
  await patch.getByRole('button', { name: 'One centre patch more' }).click();
  await patch.getByRole('button', { name: /^Test it on the/ }).click();
  const lost = async () => Number(/pitch −(\d+) cents/.exec(await layout.getByText(/^Costs: attack/).innerText())?.[1] ?? 0);
  await layout.getByText(/^Costs: attack .*, pitch −\d{3} cents/).waitFor();
  const untuned = await lost();
  await layout.getByRole('button', { name: 'turn of every rod', exact: true }).click();
  await layout.getByLabel('Amount').selectOption({ label: 'half a turn up' });
  await layout.getByRole('button', { name: 'turn of every rod, half a turn up, on the batter head, crosswise.' }).waitFor();
  ensure((await lost()) < untuned - 60, 'the note comes back up');
  await layout.getByRole('button', { name: 'turn of every rod, half a turn up, on the batter head, crosswise.' }).press('Delete');
  await layout.getByRole('button', { name: 'turn of every rod', exact: true }).waitFor();
  await page.keyboard.press('y');
  await page.keyboard.press('s');
  await patch.getByRole('button', { name: 'One centre patch fewer' }).click();

  // The shelf tells what earlier tests taught.
  await page.keyboard.press('s');
  await page.getByRole('heading', { name: 'Did it come out as expected?' }).waitFor();
  await page.getByText(/^\d+ of \d+ decay times lay where they were expected/).waitFor();
  const learned = page.getByRole('listitem').filter({ has: page.getByRole('heading', { name: 'Gel pad' }) });
  await learned.getByText(/as usual .*from 2 tests\./i).waitFor();
  await learned.getByText('What it was learned from').click();
  await learned.getByText(/Floor tom, 2 gel pads/).waitFor();
});
