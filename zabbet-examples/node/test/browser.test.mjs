// The page of the desk, clicked in a real browser.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { after, before, beforeEach } from 'node:test';
import puppeteer from 'puppeteer-core';
import { startApplication } from '../application.mjs';
import { inAnyOrder } from '../inAnyOrder.mjs';
import { openStage } from '../stage.mjs';

let stage, huts, rows, browser, page;

before(async () => {
  stage = await openStage();
  huts = await startApplication(stage.database);
  browser = await puppeteer.launch({ executablePath: process.env.BROWSER, args: ['--no-sandbox'] });
  rows = (await stage.load(readFileSync(new URL('../base.yaml', import.meta.url), 'utf8'))).rows;
  await stage.point('base');
});
beforeEach(async () => {
  await stage.rewind('base');
  page = await browser.newPage();
  await page.goto(huts.url);
  await shown(1);
});
after(async () => {
  await browser.close();
  huts.stop();
  await stage.close();
});

const shown = times => page.waitForFunction(n => Number(document.body.dataset.ready) >= n, {}, times);
const click = (stay, what) => page.evaluate((id, name) =>
  [...document.querySelectorAll(`#stay-${id} button`)].find(button => button.textContent === name).click(), stay.id, what);
const status = stay => page.$eval(`#stay-${stay.id} td:nth-child(6)`, cell => cell.textContent);

async function book(form) {
  for (const [name, value] of Object.entries(form)) await page.type(`input[name=${name}]`, String(value));
  await page.click('#book button');
  await shown(2);
}

const tests = {
  async 'cancel refunds and changes nothing else'() {
    await stage.act(async () => {
      await click(rows.stay.paid, 'cancel');
      await shown(2);
    });
    assert.equal(await status(rows.stay.paid), 'CANCELLED');
    await stage.expect(`
      footprint:
        stay:
          changed: [{key: ${rows.stay.paid.id}, from: {status: CONFIRMED}, to: {status: CANCELLED, cancelled_at: {notNull: true}}}]
        ledger_entry:
          added: [{stay_id: ${rows.stay.paid.id}, kind: REFUND, amount: -144.00}]
        nothingElse: true`);
  },
  async 'confirm charges'() {
    await stage.act(async () => {
      await click(rows.stay.asked, 'confirm');
      await shown(2);
    });
    await stage.expect('footprint: {ledger_entry: {added: [{kind: CHARGE, amount: 96.00}]}}');
    assert.equal(await status(rows.stay.asked), 'CONFIRMED');
  },
  async 'a booking comes into the list and into the tables'() {
    await stage.act(() => book(
      { guestId: rows.guest.finn.id, hutId: rows.hut.edelgrat.id, room: 2, arrives: '2031-10-01', nights: 4 }));
    await stage.expect(`
      footprint:
        stay: {added: [{room_number: 2, arrives: 2031-10-01, nights: 4, price: 192.00, status: REQUESTED}]}
        stay_guest: {added: [{guest_id: ${rows.guest.finn.id}}]}
        nothingElse: true`);
    assert.equal((await page.$$('#stays tr')).length, 4);
  },
  async 'a room that is taken is said on the page and stored nowhere'() {
    const left = await stage.act(() => book(
      { guestId: rows.guest.finn.id, hutId: rows.hut.edelgrat.id, room: 2, arrives: '2031-08-11', nights: 1 }));
    assert.deepEqual(left.changes, []);
    assert.match(await page.$eval('#problem', element => element.textContent), /room 2/);
  },
  async 'looking changes nothing'() {
    const left = await stage.act(() => page.reload());
    assert.deepEqual(left.changes, []);
  },
  async 'what is cancelled cannot be confirmed'() {
    await click(rows.stay.asked, 'cancel');
    await shown(2);
    const buttons = await page.$$eval(`#stay-${rows.stay.asked.id} button`, all => all.map(button => button.disabled));
    assert.deepEqual(buttons, [true, true]);
  },
};

inAnyOrder(tests);
