// What the desk does to stays that are there.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { after, before, beforeEach } from 'node:test';
import { startApplication } from '../application.mjs';
import { inAnyOrder } from '../inAnyOrder.mjs';
import { openStage } from '../stage.mjs';

let stage, huts, stays;

before(async () => {
  stage = await openStage();
  huts = await startApplication(stage.database);
  stays = (await stage.load(readFileSync(new URL('../base.yaml', import.meta.url), 'utf8'))).rows.stay;
  await stage.point('base');
});
beforeEach(() => stage.rewind('base'));
after(async () => {
  huts.stop();
  await stage.close();
});

const tests = {
  async 'confirming charges the price'() {
    await stage.act(() => huts.post(`/api/stays/${stays.asked.id}/confirm`));
    await stage.expect(`
      footprint:
        stay:
          changed: [{key: ${stays.asked.id}, from: {status: REQUESTED}, to: {status: CONFIRMED}}]
        ledger_entry:
          added: [{stay_id: ${stays.asked.id}, kind: CHARGE, amount: 96.00}]
        nothingElse: true`);
  },
  async 'cancelling early refunds all'() {
    await stage.act(() => huts.post(`/api/stays/${stays.paid.id}/cancel`));
    await stage.expect(`
      footprint:
        stay:
          changed: [{key: ${stays.paid.id}, to: {status: CANCELLED, cancelled_at: {notNull: true}}}]
        ledger_entry:
          added: [{stay_id: ${stays.paid.id}, kind: REFUND, amount: -144.00}]
        nothingElse: true`);
  },
  async 'cancelling late refunds half'() {
    await stage.act(() => huts.post(`/api/stays/${stays.soon.id}/cancel`));
    await stage.expect(`
      footprint:
        ledger_entry:
          added: [{kind: REFUND, amount: -24.00}]`);
  },
  async 'cancelling what was only asked for refunds nothing'() {
    const left = await stage.act(() => huts.post(`/api/stays/${stays.asked.id}/cancel`));
    assert.deepEqual(left.changes.map(change => change.table), ['stay']);
    assert.equal(await stage.count('ledger_entry'), 0);
  },
  async 'a stay that is not there changes nothing'() {
    const left = await stage.act(async () => assert.equal((await huts.post('/api/stays/99999/cancel')).code, 404));
    assert.deepEqual(left.changes, []);
  },
  async 'confirming twice charges twice, which is a mistake'() {
    await huts.post(`/api/stays/${stays.asked.id}/confirm`);
    await huts.post(`/api/stays/${stays.asked.id}/confirm`);
    assert.equal(await stage.count('ledger_entry', 'kind=CHARGE'), 2);
  },
  async 'entries in the ledger belong to a stay'() {
    await stage.act(() => huts.post(`/api/stays/${stays.paid.id}/ledger`, { amount: '12.50', kind: 'CHARGE' }));
    await stage.expect(`
      footprint:
        ledger_entry:
          added: [{stay_id: ${stays.paid.id}, amount: 12.50}]
        nothingElse: true`);
  },
  async 'an expectation that does not hold says why'() {
    await stage.act(() => huts.post(`/api/stays/${stays.asked.id}/confirm`));
    await assert.rejects(() => stage.expect('footprint: {ledger_entry: {added: [{amount: 97.00}]}}'),
      /was added with other values\.[^]*amount +96\.00 +97\.00/);
  },
};

inAnyOrder(tests);
