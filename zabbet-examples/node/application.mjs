// Starts the huts application, as a process of its own, on a stage's database.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createInterface } from 'node:readline';

export async function startApplication(database) {
  const java = spawn('java', ['-XX:TieredStopAtLevel=1', '-XX:+UseSerialGC', '-cp', process.env.HUTS_JAR,
    'dev.zabbet.examples.http.HutsServer', database, '2031-07-01T08:00:00Z'], { stdio: ['ignore', 'pipe', 'inherit'] });
  const [url] = await once(createInterface(java.stdout), 'line');
  return {
    url,
    async post(path, body = {}) {
      const answer = await fetch(url + path,
        { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) });
      return { code: answer.status, ...await answer.json() };
    },
    stop: () => java.kill(),
  };
}
