// A dependency keeps what it is given; the call to it is the engineer's.
import { ReedList } from 'reed-list';
import { arrayBytes, count, LINK, run } from './count.mjs';
const list = new ReedList();
function noteLevel() { list.add(400); count('noteLevel', LINK + arrayBytes(400), LINK + arrayBytes(400)); }
run(10, () => noteLevel(), { verdict: 'growing', top: 'noteLevel' });
