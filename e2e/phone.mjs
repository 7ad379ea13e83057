// The bench on a phone, by touch; then by keyboard alone; then every view at every width: node phone.mjs URL
import { browse, ensure, lane } from './browser.mjs';

const [url] = process.argv.slice(2);

await browse(
  url,
  [],
  async (_, page) => {
    // Nothing that is pressed is smaller than a fingertip (WCAG 2.2, 2.5.8: 24 px).
    await page.getByRole('button', { name: /^Rack tom/ }).click();
    const plans = lane(page, 'Do').getByRole('article');
    await plans.nth(1).waitFor();
    for (const button of await page.getByRole('button').all()) {
      const box = await button.boundingBox();
      if (box) ensure(box.width >= 24 && box.height >= 24, `${await button.textContent()}: ${box.width} x ${box.height}`);
    }
    // What is ruled out leaves other plans.
    const before = await plans.first().innerText();
    await page.getByText('Keep the surface clear').click();
    await page.waitForFunction(
      (old) => document.querySelector('article')?.innerText !== old && !document.querySelector('[aria-busy=true]'),
      before,
    );
    ensure(!/gel pad|cloth/.test(await lane(page, 'Do').innerText()), 'nothing in the way');
    await page.getByText('Keep the surface clear').click();
    await page.waitForFunction((old) => document.querySelector('article')?.innerText === old, before);
  },
  { width: 390, height: 844 },
);

await browse(url, [], async (_, page) => {
  await page.getByRole('button', { name: /^Rack tom/ }).waitFor();
  await page.keyboard.press('Tab');
  ensure((await page.evaluate(() => document.activeElement.textContent)) === 'To the bench', 'the way past the head of the page');
  await page.keyboard.press('Enter');
  ensure((await page.evaluate(() => document.activeElement.id)) === 'bench', 'on the bench');
  // Every key of the list does what it says, or is tried elsewhere.
  await page.keyboard.press('3');
  await lane(page, 'Do').getByRole('article').nth(1).waitFor();
  const shown = () =>
    lane(page, 'Hear')
      .getByText(/expected of/)
      .textContent();
  const first = await shown();
  await page.keyboard.press('p');
  await page.waitForFunction((old) => !document.body.innerText.includes(old), first.trim());
  await page.keyboard.press('p');
  for (let tap = 0; tap < 4; tap++) {
    await page.keyboard.press('t');
    await page.waitForTimeout(400);
  }
  // Four taps 0.4 s apart are about 150; a busy machine is not exact.
  await page.waitForFunction(() => Number(document.querySelector('#bpm').value) !== 152);
  const bpm = Number(await page.getByLabel('Tempo, beats a minute').inputValue());
  ensure(bpm > 90 && bpm < 160, `tapped ${bpm} BPM`);
  await page.getByLabel('Tempo, beats a minute').fill('152');
  await page.getByLabel('Tempo, beats a minute').press('Enter');
  await page.getByLabel('Tempo, beats a minute').blur();
  await page.keyboard.press('4');
  await page.getByRole('heading', { name: 'On the drum' }).waitFor();
  await page.keyboard.press('o');
  await page.getByRole('heading', { name: 'On the drum' }).waitFor({ state: 'hidden' });
  await page.keyboard.press('u');
  await page.getByRole('heading', { name: 'On the drum' }).waitFor();
  await page.keyboard.press('PageUp');
  await lane(page, 'Hear').getByText('Rack tom: tom').waitFor();
  await page.keyboard.press('?');
  const help = page.getByRole('dialog', { name: 'Keys' });
  await help.waitFor();
  // Keys belong to the dialog while it is open.
  await page.keyboard.press('5');
  await page.keyboard.press('Escape');
  await help.waitFor({ state: 'hidden' });
  await lane(page, 'Hear').getByText('Rack tom: tom').waitFor();
});

// No view scrolls sideways, from the narrowest phone to the widest screen.
await browse(url, [], async (_, page) => {
  await page
    .getByRole('button', { name: /^Rack tom/ })
    .first()
    .waitFor();
  for (const width of [320, 412, 480, 640, 754, 1024, 1280, 1920, 3840]) {
    await page.setViewportSize({ width, height: 800 });
    for (const place of ['b', 'k', 's', 'g']) {
      await page.keyboard.press(place);
      await page.waitForTimeout(250);
      const over = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
      ensure(over <= 0, `${page.url()} is ${over} px too wide at ${width} px`);
    }
  }
});
