// A temporary is made before each survivor in one function: optimised code allocates them in one go.
import { count, run } from './count.mjs';
class Reading { constructor(n) { this.a = n; this.b = n; this.c = n; this.d = n; this.e = n; this.f = n; } }
class Level { constructor(n) { this.a = n; this.b = n; this.c = n; this.d = n; this.e = n; this.next = null; } }
let last;
let levels = null;
function pair(n) { const reading = new Reading(n); const level = new Level(n); last = reading; return level; }
function keepPairs() { for (let n = 0; n < 3000; n++) { const level = pair(n); level.next = levels; levels = level; } }
run(20, () => { keepPairs(); count('pair', 3000 * 144, 3000 * 72); }, { verdict: 'growing', top: 'pair', hold: () => last });
