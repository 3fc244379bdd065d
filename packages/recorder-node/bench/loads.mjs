/** Programs whose cost is measured: `node loads.mjs web|loop|idle|start`. */
import { writeFileSync } from 'node:fs';
import { createServer, request, Agent } from 'node:http';

const REQUESTS = 12_000;
const loads = { web, loop, idle, start: () => undefined };
const before = process.cpuUsage();
await loads[process.argv[2]]();
// Of work that goes on for hours what starting costs says little: these are measured without it, and starting by
// itself.
if (process.env.BENCH_CPU_OUT && !['idle', 'start'].includes(process.argv[2]))
  process.once('exit', () => {
    const { user, system } = process.cpuUsage(before);
    writeFileSync(process.env.BENCH_CPU_OUT, String((user + system) / 1000));
  });

// A small service: reads a body, answers JSON. Its own client is in the same process, as work an operation is what
// counts.
async function web() {
  const gauges = new Map();
  const server = createServer((question, answer) => {
    const parts = [];
    question.on('data', (part) => parts.push(part));
    question.on('end', () => {
      const reading = JSON.parse(Buffer.concat(parts).toString());
      const known = gauges.get(reading.gauge) ?? [];
      known.push({ level: reading.level, at: reading.at });
      if (known.length > 50) known.shift();
      gauges.set(reading.gauge, known);
      answer.setHeader('content-type', 'application/json');
      answer.end(
        JSON.stringify({
          gauge: reading.gauge,
          mean: known.reduce((sum, each) => sum + each.level, 0) / known.length,
          last: known.slice(-10).map((each) => ({ ...each, rounded: Math.round(each.level) })),
        }),
      );
    });
  });
  await new Promise((done) => server.listen(0, '127.0.0.1', done));
  const agent = new Agent({ keepAlive: true, maxSockets: 8 });
  let left = REQUESTS;
  await Promise.all(
    Array.from({ length: 8 }, async () => {
      while (left-- > 0) await ask(server.address().port, agent, left);
    }),
  );
  agent.destroy();
  server.close();
}

function ask(port, agent, n) {
  return new Promise((done, failed) => {
    const question = request({ port, host: '127.0.0.1', agent, method: 'POST', path: '/readings' }, (answer) => {
      answer.resume();
      answer.on('end', done);
    });
    question.on('error', failed);
    question.end(JSON.stringify({ gauge: `gauge ${n % 200}`, level: (n * 37) % 911, at: n }));
  });
}

// Bare allocation, the hardest case for whoever samples it.
function loop() {
  let sum = 0;
  const kept = new Array(4096).fill(null);
  for (let n = 0; n < 60_000_000; n++) {
    const point = { a: n, b: n + 1, c: null, d: n };
    sum += point.a & 1;
    if ((n & 255) === 0) kept[(n >> 8) & 4095] = point;
  }
  if (sum === 42) throw new Error('not reached');
}

async function idle() {
  await new Promise((done) => setTimeout(done, 8000));
}
