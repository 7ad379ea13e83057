// The server is stopped while it listens, and started again: node stopped.mjs URL
// Prints "heard" once a strike was told; whoever reads that stops the server, and starts it again after "told".
import { browse, ensure, lane } from './browser.mjs';

const [url] = process.argv.slice(2);

await browse(url, [], async (_, page) => {
  await page.getByText('Simulated drum', { exact: true }).click();
  await page.getByRole('button', { name: 'Listen' }).click();
  const stage = page.getByRole('dialog');
  await stage.getByLabel('1 of 5 good strikes').waitFor();
  console.log('heard');
  await stage.getByRole('alert').filter({ hasText: 'Soft Ember was stopped. What was heard is kept.' }).waitFor();
  await page.getByRole('button', { name: 'Back to the bench' }).click();
  await page.getByText('Soft Ember does not answer.', { exact: false }).waitFor();
  console.log('told');
  await page.getByText('Soft Ember does not answer.', { exact: false }).waitFor({ state: 'hidden' });
  await lane(page, 'Hear').getByText('Takes (1)').waitFor();
  ensure(/[1-5] strikes?/.test(await lane(page, 'Hear').innerText()), 'what was heard is there');
});
