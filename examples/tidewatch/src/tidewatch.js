/**
 * tidewatch receives readings from the gauges of the Saltmarsh estuary, predicts the tide, raises flood bulletins and
 * serves them to subscribers. All data is made up. Its faults are known and can be switched:
 *
 *   node src/tidewatch.js [--faults subscription,churn,…] [--fixed] [--seconds N]
 *
 *   subscription  every reconnect of a gauge subscribes again and nothing is ever taken back: a constant leak a round
 *   churn         the parser of readings takes every line apart into objects that die at once
 *   bulletins     the bulletins of every report period are cached for ever: steps
 *   window        readings of the last seconds are kept as objects: they die just after they were promoted
 *   spectrum      the month's spectrum copies the month for every frequency: one burst of a few seconds, every three quarters of a minute
 */
import { channel } from 'node:diagnostics_channel';
import { parseArgs } from 'node:util';
import { Alerts } from './alerts.js';
import { Bulletins } from './bulletins.js';
import { Gauge } from './gauge.js';
import { parseReading, parseReadingLean } from './wire.js';
import { TidePrediction } from './prediction.js';
import { month, spectrum } from './spectrum.js';
import { SlidingWindow } from './window.js';

const { values } = parseArgs({
  options: {
    faults: { type: 'string', default: 'subscription,churn' },
    fixed: { type: 'boolean', default: false },
    seconds: { type: 'string', default: '0' },
  },
});
const faults = new Set(values.fixed ? [] : values.faults.split(','));
const marks = channel('brisk-heron:mark');

const alerts = new Alerts({ forget: !faults.has('subscription') });
const bulletins = new Bulletins({ keepAll: faults.has('bulletins') });
const recent = new SlidingWindow({ keepReadings: faults.has('window'), slots: 20 });
const levels = month();
const parse = faults.has('churn') ? parseReading : parseReadingLean;

const names = ['Heron Point', 'Mud Lane', 'Old Sluice', 'Samphire Creek', 'Staithe', 'Outer Bar'];
const gauges = names.map((name, number) => new Gauge(name, number));
const prediction = new TidePrediction(names);

function receive() {
  for (const gauge of gauges) {
    for (const line of gauge.lines(160)) {
      const reading = parse(line);
      prediction.add(reading.gauge, reading.level);
      alerts.check(reading);
      recent.add(reading);
    }
  }
}

let nextGauge = 0;
function reconnectOne() {
  const gauge = gauges[nextGauge++ % gauges.length];
  gauge.reconnect(alerts);
  if (nextGauge % (gauges.length * 5) === 0) marks.publish('reconnect');
}

// What a service that is up has: a connection of every gauge, readings, a bulletin.
recent.slide();
for (const gauge of gauges) gauge.reconnect(alerts);
receive();
bulletins.issue(prediction);
const timers = [
  setInterval(() => recent.slide(), 200),
  setInterval(() => spectrum(levels, { copyAll: faults.has('spectrum') }), 45_000),
  setInterval(receive, 20),
  setInterval(reconnectOne, 330),
  setInterval(() => bulletins.issue(prediction), 10_000),
];
const seconds = Number(values.seconds);
if (seconds > 0) setTimeout(() => timers.forEach(clearInterval), seconds * 1000);
