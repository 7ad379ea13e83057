// A head is seated on the screen and tuned from simulated taps until it is even: node tune.mjs URL
import { browse, ensure, heard, lane } from './browser.mjs';

const [url] = process.argv.slice(2);
const MOST_ROUNDS = 5;

await browse(url, [], async (_, page) => {
  await page.getByRole('button', { name: /^Rack tom/ }).waitFor();
  await page.keyboard.press('3');
  await page.keyboard.press('k');
  await page.getByRole('heading', { name: 'Tune the Rack tom' }).waitFor();

  // Seating, by pedal: a round of six lugs, crosswise, and back one.
  await page.keyboard.press('r');
  const dialog = page.getByRole('dialog');
  await dialog.getByText('step 1 of 6').waitFor();
  const lugs = [];
  for (let n = 0; n < 6; n++) {
    lugs.push(
      /Lug (\d)/.exec(
        await dialog
          .getByText(/^Lug \d/)
          .first()
          .textContent(),
      )[1],
    );
    await page.keyboard.press('PageDown');
  }
  ensure(lugs.join('') === '142536', `crosswise: ${lugs}`);
  await dialog.getByText('step 2 of 6').waitFor();
  await page.keyboard.press('PageUp');
  await dialog.getByText('Lug 6, the last').waitFor();
  await page.keyboard.press('Escape');

  // What other heads would do, learned from the demonstration's own change of heads; an hour of playing, and back.
  await page.getByText('What another head would do in its place').click();
  await page.getByRole('row', { name: /^single ply, 10 mil, clear \+\d+ % \(/ }).waitFor();
  await page.getByText('Learned from 2 changes of heads in this kit.').waitFor();
  await page.getByRole('button', { name: '+3 h' }).click();
  await page.getByText('played 3 h').waitFor();
  await page.keyboard.press('u');
  await page.getByText('played 0 h').waitFor();

  // Another head: what cannot be is said, what was not done is taken back.
  await page.getByRole('button', { name: 'New head …' }).click();
  const on = page.getByRole('group', { name: 'The head that goes on' });
  await on.getByLabel('Film, mil').fill('99');
  await page.getByRole('button', { name: 'It is on already' }).click();
  await page.getByRole('alert').getByText('film must be between 2 and 40 mil').waitFor();
  await on.getByLabel('Film, mil').fill('14');
  await on.getByText('Coated', { exact: true }).click();
  await page.getByRole('button', { name: 'It is on already' }).click();
  const isOn = page.getByRole('region', { name: 'The head that is on' }).locator('p').first();
  await isOn.getByText('double ply, 14 mil, coated', { exact: true }).waitFor();
  await on.waitFor({ state: 'hidden' });
  await page.keyboard.press('u');
  await isOn.getByText('double ply, 14 mil, clear', { exact: true }).waitFor();
  // Whatever was tapped before is another head's from here on.
  await page.getByRole('button', { name: 'New head …' }).click();
  await page.getByRole('button', { name: 'It goes on: guide me' }).click();
  await dialog.getByRole('heading', { name: /^Slacken, crosswise/ }).waitFor();
  await page.keyboard.press('Escape');
  await page.getByRole('status').getByText('Not tapped yet.').waitFor();

  // A round of taps, broken off after two lugs and gone on with: nothing heard is lost.
  await page.keyboard.press('i');
  await dialog.getByRole('heading', { name: 'Tap lug 1' }).waitFor();
  await dialog.getByText('2 of 6 lugs heard').waitFor();
  await page.keyboard.press('Escape');
  await dialog.waitFor({ state: 'hidden' });
  await page
    .getByRole('status')
    .getByText(/of 6 lugs heard\. Go on/)
    .waitFor();
  await page.getByRole('button', { name: 'Go on tapping' }).click();
  await heard(page);
  await page.getByRole('img', { name: /^Pitch of 6 of 6 lugs\. lug 1: \d+\.\d hertz/ }).waitFor();

  // Turn as told and tap again, until it is even.
  let rounds = 1;
  for (; rounds <= MOST_ROUNDS; rounds++) {
    const headline = await page.getByText(/^(Even within|Lugs differ by) \d+ cents/).textContent();
    if (headline.startsWith('Even')) break;
    await page.getByText('turn tighter').or(page.getByText('turn looser')).first().waitFor();
    await page.keyboard.press('d');
    await page.getByText('Turned. Tap a round again to hear what it did.').waitFor();
    await page.keyboard.press('PageDown');
    await heard(page);
  }
  ensure(rounds > 1 && rounds <= MOST_ROUNDS, `even after ${rounds} rounds`);
  await page.getByText('Nothing needs turning.', { exact: true }).waitFor();

  // A wish in words that are no pitch, then a note: now all rods go up.
  const wish = page.getByLabel('Lugs to (note or Hz)');
  await wish.fill('high');
  await wish.press('Enter');
  await page.getByText('Write a note such as A3').waitFor();
  await wish.fill('C4');
  await wish.press('Enter');
  await page.getByText(/cents too low/).waitFor();
  ensure((await page.getByText(/turns? tighter$/).count()) >= 5, 'all rods go up for a higher pitch');
  await page.getByRole('button', { name: 'Just even' }).click();
  await page.getByText('Nothing needs turning.', { exact: true }).waitFor();

  // What was turned otherwise is told rod by rod, and taken back.
  await page.getByText('I turned something else').click();
  await page.getByRole('button', { name: 'Lug 2 tighter' }).click();
  await page.getByRole('button', { name: 'These I turned' }).click();
  await page.getByText('lug 2 ⅛ turn tighter').first().waitFor();
  await page.keyboard.press('u');
  await page.getByText('Nothing needs turning.', { exact: true }).waitFor();
  // The other head, a whole step up by its school; then the whole kit.
  await page.getByRole('button', { name: 'Lower', exact: true }).click();
  await page.getByRole('button', { name: 'Lower', exact: true, pressed: true }).waitFor();
  await page.keyboard.press('i');
  await heard(page);
  await page.getByText(/^The lower head is \d+ cents higher than the batter\..*Together they should sound about \d+ Hz/s).waitFor();
  const school = page.getByRole('row', { name: /^Lower head a whole step up/ });
  await school.getByRole('button', { name: 'Tune it so' }).click();
  await page.getByText(/^Wish: lugs at 2\d\d\.\d Hz/).waitFor();
  await page.getByRole('button', { name: 'Whole kit' }).click();
  await page.getByRole('heading', { name: 'The kit’s pitches' }).waitFor();
  await page
    .getByText(/every rod about .* both heads|tap its batter/)
    .first()
    .waitFor();
  const bass = page.getByLabel('The song’s key, or the bass’s lowest notes');
  await bass.fill('loud');
  await bass.press('Enter');
  await page.getByRole('alert').getByText('Write the song’s key').or(page.getByText("Write the song's key")).waitFor();
  await bass.fill('C2');
  await bass.press('Enter');
  await page.getByText(/^The kick sits on the bass's C2/).waitFor();
  // A bass is listened to; its notes are written down.
  await page.getByRole('button', { name: 'Listen to the bass (simulated)' }).click();
  await page.getByText('Heard: E1, G1, A1').waitFor();
  await page.getByText(/^Nearest bass note$/).waitFor();
  await page.getByRole('button', { name: 'Listen to the bass (simulated)' }).waitFor();
  ensure((await bass.inputValue()) === 'E1, G1, A1', `written: ${await bass.inputValue()}`);

  // Three lugs down on purpose, heard on the bench, and back to where they were.
  await page.getByRole('button', { name: 'Batter', exact: true }).click();
  const card = page.getByRole('region', { name: 'Deliberately uneven' });
  await card.getByRole('listitem').filter({ hasText: 'Three lugs down' }).getByRole('button', { name: 'Guide me' }).click();
  await dialog.getByText('Three lugs down: step 1 of 4').waitFor();
  for (let n = 0; await dialog.isVisible(); n++) {
    ensure(n < 20, 'the guide ends');
    await page.keyboard.press('PageDown');
  }
  // It is noted at once, with as many turns as are usual; who counted them corrects that.
  await card.getByText('lug 1: 4 turns down', { exact: false }).waitFor();
  await card.getByLabel('Turns until lug 1 was slack').fill('3.5');
  await card.getByRole('button', { name: 'Correct it' }).click();
  await card.getByText('lug 1: 3 1/2 turns down, lug 2: 3 turns down, lug 6: 3 turns down').waitFor();
  await page.getByRole('status').getByText('Deliberately uneven.').waitFor();
  await page.keyboard.press('b');
  await page.keyboard.press('i');
  await heard(page);
  await page.keyboard.press('k');
  const lasts = card.getByRole('row', { name: /^Ring lasts \d\.\d\d s \d\.\d\d s$/ });
  await lasts.waitFor();
  const [before, after] = [...(await lasts.textContent()).matchAll(/\d\.\d\d/g)].map(Number);
  ensure(after < before, `ring ${before} s before, ${after} s let down`);
  await card.getByRole('button', { name: 'Guide me back' }).click();
  await dialog.getByText('The way back: step 1').waitFor();
  for (let n = 0; await dialog.isVisible(); n++) {
    ensure(n < 20, 'the way back ends');
    await page.keyboard.press('PageDown');
  }
  await page.getByText('The rods are back.').first().waitFor();
  await page.keyboard.press('i');
  await heard(page);
  await card.getByText('Back where it was: no lug is more than').waitFor();

  // A snare's wires by how long they buzz.
  await page.keyboard.press('1');
  await page.keyboard.press('b');
  await page.keyboard.press('i');
  await heard(page);
  await page.keyboard.press('k');
  await page
    .getByRole('region', { name: 'Snare wires' })
    .getByText(/^\d+ ms$/)
    .waitFor();
  // Whoever comes after finds the snare as it was.
  await page.keyboard.press('b');
  const hear = lane(page, 'Hear');
  await hear.getByText(/^Takes \(\d\)/).click();
  await hear
    .getByText(/simulated drum:/)
    .first()
    .click();
  await page.getByRole('button', { name: 'Remove the take …' }).click();
  await page.getByRole('button', { name: 'Remove for good' }).click();
  await page.getByText('The take was removed.').first().waitFor();
  console.log(`even after ${rounds} rounds`);
});
