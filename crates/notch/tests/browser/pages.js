// Opens the demo's pages in Chromium and looks at them as a person would, with a mouse, a keyboard, a screen reader or a printer.
//
// node pages.js NOTCH CHROMIUM FOLDER
//
// The demo's tables and the pages are written to FOLDER, with a picture of each page in light, in dark and as printed on A4.
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import assert from 'node:assert/strict';
import path from 'node:path';
import { chromium } from 'playwright-core';

const [notch, executablePath, folder] = process.argv.slice(2).map((name) => path.resolve(name));
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
mkdirSync(folder, { recursive: true });
assert.equal(spawnSync(notch, ['demo', folder], { stdio: 'ignore' }).status, 0, `${notch} demo`);

const check = ['check', 'lots-may.csv', '-j', 'lots.toml'];
const pages = {
  check,
  'check-shapes': [...check, '--no-texts'],
  'survey-table': ['survey', 'parcels.csv'],
  'survey-column': ['survey', 'parcels.csv', '-c', 'note'],
  compare: ['compare', 'lots.csv', '-c', 'lot', 'part 4 by "-"', 'chars 13..17'],
};
// What is wanted of single pages: what --json says is what stands there, and the list can be filtered and sorted.
const wanted = {
  async check(page, report) {
    assert.equal(await page.textContent('.verdict'), 'Not as expected.');
    const rows = page.locator('table.long tbody tr:visible');
    const findings = report.findings.filter((of) => !of.is_note).reduce((sum, of) => sum + of.count, 0);
    assert.equal(await rows.count(), findings);
    await page.getByRole('searchbox', { name: 'Rows that hold' }).fill('HL-20');
    assert.equal(await rows.count(), 2);
    assert.equal((await page.getByRole('status').textContent()).trim(), `2 of ${findings} rows`);
    await page.getByRole('searchbox').fill('');
    await page.getByRole('button', { name: 'row', exact: true }).press('Enter');
    const numbers = (await rows.locator('td:first-child').allTextContents()).map(Number);
    assert.deepEqual(numbers, [...numbers].sort((a, b) => a - b));
  },
  async 'survey-column'(page, report) {
    for (const { label } of report.columns[0].labels) assert.ok((await page.textContent('body')).includes(label), label);
  },
  async compare(page, report) {
    assert.ok((await page.textContent('.verdict')).includes(`different in ${report.different} `));
  },
};

const browser = await chromium.launch({
  executablePath,
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
});
/** Opens a page; what it asks for, and what is complained of, is kept. */
async function open(name, options) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options });
  const page = await context.newPage();
  const seen = [];
  page.on('request', (request) => seen.push(request.url()));
  page.on('console', (message) => seen.push(message.text()));
  page.on('pageerror', (error) => seen.push(error.message));
  const address = `file://${folder}/${name}.html`;
  await page.goto(address);
  return { page, close: () => context.close(), alone: () => assert.deepEqual(seen, [address], name) };
}
const isWide = () => document.scrollingElement.scrollWidth > document.scrollingElement.clientWidth;

for (const [name, args] of Object.entries(pages)) {
  spawnSync(notch, [...args, '--page', `${name}.html`], { cwd: folder, stdio: 'ignore' });
  const { stdout } = spawnSync(notch, [...args.filter((arg) => arg !== '--no-texts'), '--json'], { cwd: folder, encoding: 'utf8' });
  for (const colorScheme of ['light', 'dark']) {
    const { page, close, alone } = await open(name, { colorScheme });
    await page.screenshot({ path: `${folder}/${name}-${colorScheme}.png` });
    assert.ok(!(await page.evaluate(isWide)), `${name} is wider than the window`);
    await wanted[name]?.(page, JSON.parse(stdout));
    alone();
    await close();
    // What looks for names and contrast is let in past the page's own policy, which is why it is opened anew.
    const looked = await open(name, { colorScheme, bypassCSP: true });
    await looked.page.evaluate(axe);
    const { violations } = await looked.page.evaluate(() => window.axe.run());
    assert.deepEqual(violations.map(({ id, nodes }) => [id, nodes[0].html]), [], `${name}, ${colorScheme}`);
    await looked.close();
  }
  // A4 less its margins, at 96 dots an inch: nothing is cut off.
  const print = await open(name, { viewport: { width: 680, height: 1009 } });
  await print.page.emulateMedia({ media: 'print' });
  assert.ok(!(await print.page.evaluate(isWide)), `${name} is wider than A4`);
  await print.page.screenshot({ path: `${folder}/${name}-print.png` });
  await print.close();
  // Without scripts all of it is there.
  const still = await open(name, { javaScriptEnabled: false });
  const text = await still.page.locator('body').innerText();
  if (name === 'check') assert.ok(text.includes('HL-2030-QUE-24985-4'));
  assert.ok(text.length > 500, name);
  await still.close();
}
await browser.close();
console.log(`${Object.keys(pages).length} pages, their pictures in ${folder}`);
