// The first minutes, from an empty stage to a first plan: node beginning.mjs URL
import { browse, ensure, until } from './browser.mjs';
import { check } from './wcag.mjs';

const [url] = process.argv.slice(2);

/** Most presses and seconds from an empty stage to a first plan. */
const MOST_CLICKS = 25;
const MOST_S = 180;

await browse(url, [], async (_, page) => {
  let clicks = 0;
  const press = async (target) => {
    clicks += 1;
    await target.click();
  };
  const began = Date.now();
  const kit = page.getByRole('navigation', { name: 'Kit, in playing order' });
  const pieces = kit.getByRole('button', { name: /Not measured yet/ });

  // A kit, with or without its cymbals; taken back, it is asked for again.
  await page.getByRole('heading', { name: 'What kit do you play?' }).waitFor();
  await check(page, 'an empty stage');
  await press(page.getByText('With its cymbals'));
  await press(page.getByRole('button', { name: 'Take this one: Club kit' }));
  await page.getByRole('heading', { name: 'What have you got to put on it?' }).waitFor();
  await until(async () => (await pieces.count()) === 4, 'a club kit has four drums');
  await press(page.getByRole('button', { name: 'Undo' }));
  await page.getByRole('heading', { name: 'What kit do you play?' }).waitFor();
  await until(async () => (await pieces.count()) === 0, 'the kit is gone again');
  await press(page.getByRole('button', { name: 'Take this one: Fusion kit' }));
  await page.getByRole('heading', { name: 'What have you got to put on it?' }).waitFor();
  await until(async () => (await pieces.count()) === 5, 'a fusion kit has five drums');
  await check(page, 'the empty shelf');

  // Left for later, it is asked again where plans are made, and nothing is said not to help.
  await press(page.getByRole('button', { name: 'Later' }));
  await page.getByRole('heading', { name: 'What do you play?' }).waitFor();
  await check(page, 'the music');
  await press(page.getByRole('button', { name: 'Funk', exact: true }));
  await page.getByRole('heading', { name: 'Hit the Kick 5 times.' }).waitFor();
  await until(async () => (await page.getByLabel('Tonight’s genre').inputValue()) === 'funk', 'funk is played');
  await press(page.getByText('Simulated drum', { exact: true }));
  await press(page.getByRole('button', { name: 'Listen' }));
  const plans = page.getByRole('region', { name: 'Do' });
  await plans.getByText('Plans are made of what you own. What have you got?').waitFor({ timeout: 90_000 });
  ensure(
    (await page.getByText('Nothing on', { exact: false }).filter({ hasText: 'shelf helps' }).count()) === 0,
    'the shelf was not met yet',
  );
  await check(page, 'plans before the shelf');

  // In one press there is something to plan with.
  await press(plans.getByRole('button', { name: /^What lies about at home/ }));
  await page
    .getByText(/^What lies about at home: \d+ things put on the shelf/)
    .first()
    .waitFor();
  await plans.getByText(/These get there|This gets there|These come nearest/).waitFor({ timeout: 90_000 });
  const seconds = (Date.now() - began) / 1000;
  ensure(clicks <= MOST_CLICKS && seconds <= MOST_S, `${clicks} presses and ${seconds} s to the first plan`);
  console.log(`${clicks} presses and ${Math.round(seconds)} s from an empty stage to the first plan`);
});
