// Two leaks, of which either may be mended: so many lists each turn by the one and by the other, for so many seconds.
const [first, second, seconds] = process.argv.slice(2).map(Number);
const kept = [];
const others = [];

function subscribe() {
  for (let n = 0; n < first; n++) kept.push(new Array(50).fill(n));
}

function remember() {
  for (let n = 0; n < second; n++) others.push(new Array(50).fill(n));
}

function read() {
  let sum = 0;
  for (let n = 0; n < 200; n++) sum += new Array(300).fill(n).length;
  return sum;
}

const endMs = Date.now() + seconds * 1000;
const timer = setInterval(() => {
  subscribe();
  remember();
  read();
  if (Date.now() > endMs) clearInterval(timer);
}, 20);
