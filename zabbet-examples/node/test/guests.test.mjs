// Guests who are new.
import assert from 'node:assert/strict';
import { after, before, beforeEach } from 'node:test';
import { startApplication } from '../application.mjs';
import { inAnyOrder } from '../inAnyOrder.mjs';
import { openStage } from '../stage.mjs';

let stage, huts;

before(async () => {
  stage = await openStage();
  huts = await startApplication(stage.database);
});
beforeEach(() => stage.rewind());
after(async () => {
  huts.stop();
  await stage.close();
});

const ada = { fullName: 'Ada Brunner', email: 'ada@huts.example', password: 'over the hills' };

const tests = {
  async 'a guest is stored without the password'() {
    const left = await stage.act(() => huts.post('/api/guests', ada));
    assert.ok(!JSON.stringify(left).includes(ada.password));
    await stage.expect(`
      footprint:
        guest:
          added: [{full_name: Ada Brunner, email: ada@huts.example, born: null, password_hash: {notNull: true}}]
        nothingElse: true`);
  },
  async 'the first guest has the first number, in each test'() {
    assert.equal((await huts.post('/api/guests', ada)).guest.id, 1);
  },
  async 'and in the next one'() {
    assert.equal((await huts.post('/api/guests', ada)).guest.id, 1);
  },
  async 'an address is taken once'() {
    await huts.post('/api/guests', ada);
    const left = await stage.act(async () => assert.equal((await huts.post('/api/guests', ada)).code, 422));
    assert.deepEqual(left.changes, []);
  },
  async 'a short password is refused'() {
    assert.equal((await huts.post('/api/guests', { ...ada, password: 'short' })).code, 422);
    assert.equal(await stage.count('guest'), 0);
  },
  async 'a birthday is kept'() {
    await huts.post('/api/guests', { ...ada, born: '1999-12-31' });
    assert.equal(await stage.count('guest', 'born=1999-12-31'), 1);
  },
};

inAnyOrder(tests);
