// Runs tests in another order each time; ORDER=number repeats one.
import { test } from 'node:test';

export function inAnyOrder(tests) {
  let state = Number(process.env.ORDER ?? Date.now() % 100000);
  console.log(`ORDER=${state}`);
  const next = () => (state = (state * 1103515245 + 12345) % 2147483648) / 2147483648;
  Object.entries(tests).map(one => [next(), one]).sort((a, b) => a[0] - b[0])
    .forEach(([, [name, work]]) => test(name, work));
}
