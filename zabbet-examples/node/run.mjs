// Runs the tests: starts `zabbet serve`, which gives each worker a database of its own, and Node's test runner.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createInterface } from 'node:readline';
import { existsSync, readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const here = path => fileURLToPath(new URL(path, import.meta.url));
const jar = process.env.HUTS_JAR ?? here('../../zabbet-cli/target/zabbet.jar');
const database = process.env.ZABBET_DB ?? `jdbc:h2:${here('target/huts')};AUTO_SERVER=TRUE`;
const script = here(database.includes('mariadb')
  ? '../src/main/resources/db/huts.mariadb.sql' : '../src/main/resources/db/huts.sql');

const serve = spawn('java', ['-XX:+UseSerialGC', '-cp', jar, 'dev.zabbet.cli.Zabbet', 'serve', '--json', '--script', script],
  { env: { ...process.env, ZABBET_DB: database }, stdio: ['ignore', 'pipe', 'inherit'] });
const [line] = await Promise.race([once(createInterface(serve.stdout), 'line'), once(serve, 'exit').then(() => [])]);
if (line === undefined) process.exit(2);
const { url, token } = JSON.parse(line);

const browser = process.env.BROWSER ?? '/usr/bin/chromium';
const hasBrowser = existsSync(browser) && existsSync(here('node_modules/puppeteer-core'));
if (!hasBrowser) console.log(`Without a browser: there is no ${browser}, or "npm ci" was not run.`);
const files = readdirSync(here('test')).filter(name => hasBrowser || !name.startsWith('browser')).map(name => here(`test/${name}`));

const tests = spawn(process.execPath, ['--test', '--test-concurrency=2', ...process.argv.slice(2), ...files],
  { env: { ...process.env, ZABBET_URL: url, ZABBET_TOKEN: token, HUTS_JAR: jar, BROWSER: browser }, stdio: 'inherit' });
const [status] = await once(tests, 'exit');
serve.kill();
await once(serve, 'exit');
process.exit(status ?? 2);
