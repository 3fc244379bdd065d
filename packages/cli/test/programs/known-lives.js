// Makes pieces of text that live two seconds, and lists that live a tenth, and counts neither: they are known.
const [SECONDS, LIVES_MS, SOON_MS] = [10, 2000, 100];
const held = [];
const soon = [];

function lastTwoSeconds() {
  const piece = new Array(64).fill(held.length);
  held.push(piece);
  setTimeout(() => held.splice(held.indexOf(piece), 1), LIVES_MS);
}

function lastATenth() {
  const list = new Array(64).fill(0);
  soon.push(list);
  setTimeout(() => soon.splice(soon.indexOf(list), 1), SOON_MS);
}

// What makes the collector look often.
function churn() {
  let sum = 0;
  for (let n = 0; n < 400; n++) sum += new Array(200).fill(n).length;
  return sum;
}

const timer = setInterval(() => {
  for (let n = 0; n < 3; n++) {
    lastTwoSeconds();
    lastATenth();
    churn();
  }
}, 2);
setTimeout(() => clearInterval(timer), SECONDS * 1000);
