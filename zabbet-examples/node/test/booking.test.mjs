// What becomes of what guests ask for.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { after, before, beforeEach } from 'node:test';
import { startApplication } from '../application.mjs';
import { inAnyOrder } from '../inAnyOrder.mjs';
import { openStage } from '../stage.mjs';

let stage, huts, rows;

before(async () => {
  stage = await openStage();
  huts = await startApplication(stage.database);
});
beforeEach(async () => {
  await stage.rewind();
  rows = (await stage.load(readFileSync(new URL('../base.yaml', import.meta.url), 'utf8'))).rows;
});
after(async () => {
  huts.stop();
  await stage.close();
});

const asked = more => ({ guestId: rows.guest.ada.id, hutId: rows.hut.edelgrat.id, room: 1, arrives: '2031-09-01', nights: 2, ...more });

async function refused(status, more) {
  const left = await stage.act(async () => assert.equal((await huts.post('/api/stays', asked(more))).code, status));
  assert.deepEqual(left.changes, []);
}

const tests = {
  async 'a booking is a stay with its guest'() {
    await stage.act(async () => assert.equal((await huts.post('/api/stays', asked())).code, 201));
    await stage.expect(`
      footprint:
        stay:
          added: [{hut_id: ${rows.hut.edelgrat.id}, room_number: 1, nights: 2, status: REQUESTED, price: 96.00}]
        stay_guest:
          added: [{guest_id: ${rows.guest.ada.id}}]
        nothingElse: true`);
  },
  'a room that is taken is refused': () => refused(409, { arrives: '2031-08-02' }),
  'a room is free again on the day of leaving': async () =>
    assert.equal((await huts.post('/api/stays', asked({ arrives: '2031-08-03' }))).code, 201),
  'a guest who is not known is refused': () => refused(404, { guestId: 99999 }),
  'a night has to be stayed': () => refused(422, { nights: 0 }),
  'fifteen nights are too many': () => refused(422, { nights: 15 }),
  'a room has to be there': () => refused(422, { room: 7 }),
  'a day has to be one': () => refused(422, { arrives: 'tomorrow' }),
  async 'what was cancelled leaves its room'() {
    await huts.post(`/api/stays/${rows.stay.asked.id}/cancel`);
    assert.equal((await huts.post('/api/stays', asked({ arrives: '2031-08-01' }))).code, 201);
    assert.equal(await stage.count('stay', 'status=CANCELLED'), 1);
  },
  async 'two at once get two rooms'() {
    const both = await Promise.all([huts.post('/api/stays', asked()), huts.post('/api/stays', asked({ room: 2 }))]);
    assert.deepEqual(both.map(answer => answer.code), [201, 201]);
    assert.equal(await stage.count('stay', 'arrives=2031-09-01'), 2);
  },
};

inAnyOrder(tests);
