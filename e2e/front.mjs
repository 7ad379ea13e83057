// Whether to cut a kick's front head: node front.mjs URL. Leaves the kit as it found it.
import { browse, ensure, heard } from './browser.mjs';

const [url] = process.argv.slice(2);

await browse(url, ['--autoplay-policy=no-user-gesture-required'], async (_, page) => {
  await page.getByRole('navigation', { name: 'Kit, in playing order' }).getByRole('button').first().waitFor();
  await page.keyboard.press('5');
  await page.keyboard.press('x');
  await page.getByRole('heading', { name: 'Front head of the Kick' }).waitFor();
  await page.getByRole('heading', { name: /^Do not cut/ }).waitFor();
  await page.getByRole('checkbox', { name: 'A microphone has to get in' }).check();
  // The front was off for a trial before.
  const advised = page.getByRole('heading', { name: /in hole (would do it|for the microphone)/ });
  await advised.waitFor();
  await page.getByLabel('The song’s key, or the bass’s lowest notes').fill('loud');
  await page.getByRole('button', { name: 'Against the bass' }).click();
  await page.getByText(/Write the song's key/).waitFor();
  await page.getByLabel('The song’s key, or the bass’s lowest notes').fill('C2, G1');
  await page.getByRole('button', { name: 'Against the bass' }).click();
  await page.getByText(/^The kick (sits on|is close to|keeps clear)/).waitFor();

  // Its head tuned otherwise instead: expected with bounds, how to get there, and heard first.
  await page.getByRole('tab', { name: 'Tune instead' }).click();
  const lower = page.getByRole('listitem').filter({ hasText: /^front head, a whole tone lower/i });
  await lower.getByRole('button', { name: /a whole tone lower/ }).click();
  await lower.getByText(/^Body [\d.]+ m?s \([\d.]+ m?s to [\d.]+ m?s\) at \d+ Hz/).waitFor();
  await lower.getByText('Each is to come to 0.89 times that.').waitFor();
  await lower.getByRole('button', { name: 'Hear it first' }).click();
  const tuned = page.getByRole('dialog', { name: /^Hear it first/ });
  await tuned.getByRole('button', { name: /^Expected body \d/ }).waitFor();
  await page.keyboard.press('Escape');
  await tuned.waitFor({ state: 'hidden' });
  await lower.getByRole('button', { name: /^To its lugs in Tune/ }).click();
  await page.getByRole('button', { name: 'Front', exact: true, pressed: true }).waitFor();
  await page.keyboard.press('x');
  await page.getByRole('tab', { name: 'Ways to close it' }).click();

  // Another beater: held against the one that was measured, heard first, and left in the head.
  await page.getByRole('tab', { name: 'How to strike it' }).click();
  const plastic = page.getByRole('listitem').filter({ hasText: /^hard plastic/i });
  const click = async () => Number(/Click\s*\+([\d.]+) dB/.exec(await plastic.textContent())?.[1]);
  await plastic
    .getByText(/^\+[\d.]+ dB \(\+[\d.]+ to \+[\d.]+\)$/)
    .last()
    .waitFor();
  const fromFelt = await click();
  await plastic.getByRole('button', { name: 'Hear it first: hard plastic' }).click();
  const struck = page.getByRole('dialog', { name: /^Hear it first/ });
  await struck.getByRole('button', { name: /^Expected body \d/ }).waitFor();
  await page.keyboard.press('Escape');
  await struck.waitFor({ state: 'hidden' });
  await page.getByLabel('Measured with').selectOption({ label: 'wood' });
  await page
    .getByRole('listitem')
    .filter({ hasText: /^wood\s· as measured/i })
    .waitFor();
  ensure((await click()) < fromFelt, 'from wood to plastic it is a smaller step');
  await page.getByLabel('Measured with').selectOption({ label: 'felt' });
  await page.getByText(/^Body [\d.]+ m?s → [\d.]+ m?s \([\d.]+ m?s to [\d.]+ m?s\)/).waitFor();
  await page.getByText(/^a beater left in the head strikes again after \d+ to \d+ ms, whatever the foot/i).waitFor();
  await page.getByRole('button', { name: 'Hear it left in the head' }).click();
  await struck.getByText(/strikes again after \d+ ms/).waitFor();
  await page.keyboard.press('Escape');
  await struck.waitFor({ state: 'hidden' });
  await page.getByRole('tab', { name: 'Ways to close it' }).click();

  // Fill and hole at once: every way is then expected with what is laid in.
  await page.getByLabel('Laid in besides').selectOption({ label: 'pillow, pressed on the batter head' });
  const both = page.getByRole('listitem').filter({ hasText: /^a 5 in hole in the front head, pillow in it/ });
  await both.getByRole('button', { name: /^a 5 in hole/ }).click();
  await both.getByRole('button', { name: 'A spare head with it is on, pillow in it' }).waitFor();
  await both.getByRole('button', { name: 'Hear it first' }).click();
  await struck
    .getByText(/and pillow/)
    .first()
    .waitFor();
  await page.keyboard.press('Escape');
  await struck.waitFor({ state: 'hidden' });
  await both.getByRole('button', { name: /^a 5 in hole/ }).click();
  await page.getByLabel('Laid in besides').selectOption({ label: 'nothing' });
  await both.waitFor({ state: 'detached' });

  // What a hole would do, and heard first.
  const hole = page.getByRole('listitem').filter({ hasText: /^a 5 in hole in the front head/ });
  await hole.getByRole('button', { name: /^a 5 in hole/ }).click();
  await hole.getByText(/one clean hit/i).waitFor();
  await hole.getByRole('button', { name: 'Hear it first' }).click();
  const dialog = page.getByRole('dialog', { name: /^Hear it first/ });
  await dialog.getByRole('button', { name: /^Expected body \d/ }).waitFor();
  await page.keyboard.press('Escape');
  await dialog.waitFor({ state: 'hidden' });

  // Where it goes: by figures, by keys, refused in words; the template opens.
  await hole.getByRole('button', { name: 'Where it goes' }).click();
  await page.getByText(/mm of flat film between the ring and the collar/i).waitFor();
  const plan = page.getByRole('button', { name: /^The hole, 5 in, at 4 o’clock/ });
  await plan.focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown');
  await page.getByText(/onto the collar/).waitFor();
  ensure(!(await page.getByRole('button', { name: 'I have cut it: note it' }).isVisible()), 'what does not fit is not noted as cut');
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowUp');
  await page.getByText(/mm of flat film/).waitFor();
  await page.getByLabel('Hole, in').fill('40');
  await page.getByText(/too large for a 20 inch head/).waitFor();
  await page.getByLabel('Hole, in').fill('5');
  const pdf = await page.getByRole('link', { name: 'PDF to print' }).getAttribute('href');
  const answer = await page.request.get(new URL(pdf, url).href);
  ensure(answer.ok() && (await answer.body()).subarray(0, 5).toString() === '%PDF-', 'a template');

  // Cut, and undone.
  await page.getByRole('button', { name: 'I have cut it: note it' }).click();
  await page
    .getByText(/Noted: a 5 in hole was cut/)
    .first()
    .waitFor();
  await page.getByText(/Measure the open drum first/).waitFor();
  await page.keyboard.press('u');
  await advised.waitFor();

  // The trial: the front comes off, the drum is heard, and all goes back.
  await page.getByRole('button', { name: 'Try it with the front head off' }).click();
  // It listens at once; here there is no microphone.
  await page.getByText('front head off, on trial').waitFor();
  await page.keyboard.press('Escape');
  await page.getByRole('heading', { name: /^Hit the Kick/ }).waitFor();
  await page.keyboard.press('i');
  await heard(page);
  await page.getByRole('table', { name: 'Expected beside found' }).waitFor();
  await page.keyboard.press('x');
  await page.getByText('On trial now:').waitFor();
  await page.getByRole('button', { name: 'It is back as it was' }).click();
  await page.getByText(/2 trials on this kit/).waitFor();
  await page.getByRole('tab', { name: 'Ways to close it' }).click();
  const off = page.getByRole('listitem').filter({ hasText: /^front head off/ });
  await off.getByRole('button', { name: /^front head off/ }).click();
  await off.getByText(/^Found in a trial: body/).waitFor();

  // What fills it instead.
  await page.getByRole('tab', { name: 'Fill instead' }).click();
  const touching = page.getByRole('listitem').filter({ hasText: /^touching both heads/ });
  await touching.getByRole('button', { name: /^touching both heads/ }).click();
  await touching.getByRole('button', { name: 'It is in' }).click();
  await page.getByRole('heading', { name: 'Hit the Kick 5 times again.' }).waitFor();
  await page.keyboard.press('u');
  await page.getByText('Undone.').first().waitFor();
});
