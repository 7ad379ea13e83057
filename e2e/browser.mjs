// Starts Debian's Chromium for one script, and fails the script on anything that the page complains of.
import { chromium } from 'playwright-core';

const ARGUMENTS = [
  '--headless',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

/** Chromium with a microphone that plays the WAV file `wav` once (16 bits, 44.1 kHz: anything else is silence). */
export const playing = (wav) => [
  '--use-fake-ui-for-media-stream',
  '--use-fake-device-for-media-stream',
  `--use-file-for-fake-audio-capture=${wav}%noloop`,
];

/** Chromium whose user refuses the microphone. */
export const refusing = ['--use-fake-ui-for-media-stream=deny', '--use-fake-device-for-media-stream'];

/** Chromium on a machine without a microphone. */
export const without = ['--use-fake-ui-for-media-stream'];

/** Runs `work(context, page)` on a page at `url`; `more` are further arguments of the browser. */
export async function browse(url, more, work, size = { width: 1280, height: 800 }) {
  const browser = await chromium.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: [...ARGUMENTS, ...more] });
  try {
    const context = await browser.newContext({ viewport: size, reducedMotion: 'reduce' });
    const complaints = [];
    context.on('page', (page) => {
      page.on('pageerror', (error) => complaints.push(error.message));
      // A refused request is part of the story; the page says so in words.
      page.on('console', (message) => {
        if (message.type() === 'error' && !message.text().startsWith('Failed to load resource')) complaints.push(message.text());
      });
    });
    const page = await context.newPage();
    // Longer than any step takes on a machine that does other work besides.
    page.setDefaultTimeout(60_000);
    // The page is there once its texts are, a moment after the browser says that it has loaded.
    for (const name of ['goto', 'reload']) {
      const plain = page[name].bind(page);
      page[name] = async (...given) => {
        const answer = await plain(...given);
        if ((await page.locator('#app').count()) > 0) await page.locator('#app > *').first().waitFor({ state: 'attached' });
        return answer;
      };
    }
    await page.goto(url);
    try {
      await work(context, page);
    } catch (error) {
      // What the page showed is most of the explanation.
      throw new Error(`${error.message}\nThe page showed: ${await page.locator('body').innerText()}`, { cause: error });
    }
    if (complaints.length > 0) throw new Error(`The page complained: ${complaints.join('; ')}`);
  } finally {
    await browser.close();
  }
}

/** Waits until `condition` holds: what a press changes may be drawn a moment after what is waited for. */
export async function until(condition, sentence) {
  const before = Date.now() + 30_000;
  while (!(await condition())) {
    if (Date.now() > before) throw new Error(sentence);
    await new Promise((done) => setTimeout(done, 50));
  }
}

export function ensure(condition, sentence) {
  if (!condition) throw new Error(sentence);
}

/** Waits for the listening stage to come and to end by itself. */
export async function heard(page, timeout = 60_000) {
  const stage = page.getByRole('dialog');
  await stage.waitFor();
  await stage.waitFor({ state: 'hidden', timeout });
}

/** The lane with this heading. */
export const lane = (page, name) => page.getByRole('region', { name, exact: true });
