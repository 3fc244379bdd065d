import { type Letters, newlineAt } from '../../base/line-batch.ts';
import { ascii, type ByteNumbers, findWord, standsAt, type Word } from '../byte-text.ts';
import { unitBytes } from '../scan-number.ts';
import { inMs } from './byte-scanner.ts';
import type { JvmRun } from './jvm-run.ts';
import { type StepName, takeStepRow } from './step-row.ts';

const NEWLINE = 10;
const RETURN = 13;
const BLANK = 32;
const PERCENT = 37;
const PARENTHESIS = 40;
const CLOSED = 41;
const DASH = 45;
const COLON = 58;
const SECONDS = 115;
const WORD = {
  arrow: ascii('->'),
  user: ascii('User='),
  sys: ascii('s Sys='),
  real: ascii('s Real='),
  used: ascii(' used,'),
  age: ascii('- age'),
  bytes: ascii(' bytes, '),
  total: ascii(' total'),
};
const SPACE = {
  eden: namedSpace('Eden'),
  survivor: namedSpace('Survivor'),
  old: namedSpace('Old'),
  archive: namedSpace('Archive'),
  humongous: namedSpace('Humongous'),
  psYoungGen: namedSpace('PSYoungGen'),
  parOldGen: namedSpace('ParOldGen'),
  defNew: namedSpace('DefNew'),
  tenured: namedSpace('Tenured'),
  metaspace: namedSpace('Metaspace'),
};

interface NamedSpace {
  readonly name: string;
  /** How its line begins: of those that are counted in regions, `Eden regions: `; of others, `DefNew: `. */
  readonly regions: Word;
  readonly sized: Word;
}

function namedSpace(name: string): NamedSpace {
  return { name, regions: ascii(`${name} regions: `), sized: ascii(`${name}: `) };
}

const STEPS = {
  used: namedStep('Used'),
  live: namedStep('Live'),
  allocated: namedStep('Allocated'),
  promoted: namedStep('Promoted'),
};

interface NamedStep {
  readonly name: StepName;
  readonly word: Word;
}

function namedStep(name: StepName): NamedStep {
  return { name, word: ascii(`${name}: `) };
}

// By its first letter: most lines that begin with blanks are of other tables.
function stepAt(view: DataView, at: number, letter: number): NamedStep | null {
  const step =
    letter === 85
      ? STEPS.used
      : letter === 76
        ? STEPS.live
        : letter === 65
          ? STEPS.allocated
          : letter === 80
            ? STEPS.promoted
            : null;
  return step !== null && standsAt(view, at, step.word) ? step : null;
}

/** The table of a generation has four figures in a row, that of the whole heap six. */
const LEAST_CELLS = 4;

/** Reads what is told of a collection in lines of its own from their bytes: sizes of spaces, age tables, processor times. */
export class JvmByteDetails {
  private readonly run: JvmRun;
  private readonly numbers: ByteNumbers;
  /** What is told of a space, in the same place each time. */
  private readonly space = { name: '', beforeBytes: NaN, afterBytes: NaN, capacityBytes: NaN };

  private readonly cells = [NaN, NaN, NaN, NaN];

  constructor(run: JvmRun, numbers: ByteNumbers) {
    this.run = run;
    this.numbers = numbers;
  }

  /**
   * Takes a row of the table over the steps of a ZGC collection, whose blanks begin at `textAt`: `     Used:   28M (22%)
   * -   32M (25%) …`; false for any other, and an unusual one. `generation` is the letter before it.
   */
  takeStepRow(letters: Letters, gcId: number, textAt: number, generation: string): boolean {
    const { bytes, view } = letters;
    const nameAt = afterBlanks(bytes, textAt);
    const step = stepAt(view, nameAt, bytes[nameAt]!);
    if (step === null) return false;
    const cells = this.stepCells(bytes, nameAt + step.word.length);
    if (cells < LEAST_CELLS) return false;
    const [markStart, markEnd, relocateStart, relocateEnd] = this.cells as unknown as [number, number, number, number];
    const row = { markStart, markEnd, relocateStart, relocateEnd, ofHeap: cells > LEAST_CELLS };
    takeStepRow(this.run, gcId, { name: step.name, row, generation });
    return true;
  }

  // How many figures stand there up to the line's end, the first of which are kept, NaN for `-`; 0 where anything else does.
  private stepCells(bytes: Uint8Array, from: number): number {
    const { numbers, cells } = this;
    for (let count = 0, at = from; ; count++) {
      at = afterBlanks(bytes, at);
      if (bytes[at] === NEWLINE) return count;
      let value = NaN;
      if (bytes[at] === DASH) numbers.end = at + 1;
      else {
        const whole = numbers.read(bytes, at);
        value = Number.isInteger(whole) ? whole * unitBytes(bytes[numbers.end++]!) : NaN;
        const open = bytes[numbers.end] === BLANK ? numbers.end + 1 : numbers.end;
        if (Number.isNaN(value) || bytes[open] !== PARENTHESIS) return 0;
        if (!Number.isInteger(numbers.read(bytes, open + 1)) || bytes[numbers.end] !== PERCENT) return 0;
        if (bytes[numbers.end + 1] !== CLOSED) return 0;
        numbers.end += 2;
      }
      at = numbers.end;
      if (bytes[at] !== BLANK && bytes[at] !== NEWLINE) return 0;
      if (count < LEAST_CELLS) cells[count] = value;
    }
  }

  /** Takes the message at `textAt`, which is of a collection; false for any other, and an unusual one. */
  take(letters: Letters, gcId: number, textAt: number): boolean {
    const { bytes } = letters;
    switch (bytes[textAt]) {
      case 69:
        return this.takeRegions(letters, gcId, textAt, SPACE.eden); // E
      case 83:
        return this.takeRegions(letters, gcId, textAt, SPACE.survivor); // S
      case 65:
        return this.takeRegions(letters, gcId, textAt, SPACE.archive) || this.takeStepRow(letters, gcId, textAt, ' '); // A
      case 72:
        return this.takeRegions(letters, gcId, textAt, SPACE.humongous); // H
      case 79:
        return this.takeRegions(letters, gcId, textAt, SPACE.old); // O
      case 77:
        return this.takeGeneration(letters, gcId, textAt, SPACE.metaspace); // M
      case 68:
        return this.takeGeneration(letters, gcId, textAt, SPACE.defNew); // D
      case 84:
        return this.takeGeneration(letters, gcId, textAt, SPACE.tenured); // T
      case 80: // P
        return this.takeGeneration(
          letters,
          gcId,
          textAt,
          bytes[textAt + 1] === 83 ? SPACE.psYoungGen : SPACE.parOldGen,
        );
      case 85:
        return this.takeCpuTimes(letters, gcId, textAt); // U
      case 45:
        return this.takeAge(letters, gcId, textAt); // -
      case BLANK:
        return this.takeStepRow(letters, gcId, textAt, ' ');
      default:
        return false;
    }
  }

  // Eden regions: 6->0(8)
  private takeRegions(letters: Letters, gcId: number, textAt: number, { name, regions }: NamedSpace): boolean {
    const { bytes, view } = letters;
    const { regionBytes } = this.run;
    if (!standsAt(view, textAt, regions)) return false;
    const before = this.numbers.read(bytes, textAt + regions.length);
    if (!standsAt(view, this.numbers.end, WORD.arrow)) return false;
    const after = this.numbers.read(bytes, this.numbers.end + 2);
    if (Number.isNaN(before + after + regionBytes)) return false;
    return this.addSpace(gcId, name, before * regionBytes, after * regionBytes, NaN);
  }

  // ParOldGen: 0K(44032K)->904K(44032K)
  private takeGeneration(letters: Letters, gcId: number, textAt: number, { name, sized }: NamedSpace): boolean {
    const { bytes, view } = letters;
    if (!standsAt(view, textAt, sized)) return false;
    const { numbers } = this;
    const beforeBytes = numbers.readSize(bytes, textAt + sized.length);
    // ZGC tells of a metaspace that lies outside the heap, and of no collection of it.
    if (standsAt(view, numbers.end, WORD.used))
      return findWord(view, numbers.end, newlineAt(view, numbers.end), WORD.arrow) < 0;
    // How large it was before stands there too, as a rule.
    if (bytes[numbers.end] === PARENTHESIS) {
      if (Number.isNaN(numbers.readSize(bytes, numbers.end + 1)) || bytes[numbers.end++] !== CLOSED) return false;
    }
    if (!standsAt(view, numbers.end, WORD.arrow)) return false;
    const afterBytes = numbers.readSize(bytes, numbers.end + 2);
    const capacityBytes = bytes[numbers.end] === PARENTHESIS ? numbers.readSize(bytes, numbers.end + 1) : NaN;
    if (Number.isNaN(beforeBytes + afterBytes + capacityBytes)) return false;
    return this.addSpace(gcId, name, beforeBytes, afterBytes, capacityBytes);
  }

  private addSpace(
    gcId: number,
    name: string,
    beforeBytes: number,
    afterBytes: number,
    capacityBytes: number,
  ): boolean {
    const { space } = this;
    space.name = name;
    space.beforeBytes = beforeBytes;
    space.afterBytes = afterBytes;
    space.capacityBytes = capacityBytes;
    this.run.addSpace(gcId, space);
    return true;
  }

  // User=0.01s Sys=0.00s Real=0.02s
  private takeCpuTimes(letters: Letters, gcId: number, textAt: number): boolean {
    const { bytes, view } = letters;
    if (!standsAt(view, textAt, WORD.user)) return false;
    const user = this.numbers.read(bytes, textAt + 5);
    if (!standsAt(view, this.numbers.end, WORD.sys)) return false;
    const sys = this.numbers.read(bytes, this.numbers.end + 6);
    if (!standsAt(view, this.numbers.end, WORD.real)) return false;
    const real = this.numbers.read(bytes, this.numbers.end + 7);
    const { end } = this.numbers;
    const isWhole = bytes[end] === SECONDS && (bytes[end + 1] === NEWLINE || bytes[end + 1] === RETURN);
    if (Number.isNaN(user + sys + real) || !isWhole) return false;
    this.run.addCpuTimes(gcId, { userMs: inMs(user), sysMs: inMs(sys), realMs: inMs(real) });
    return true;
  }

  // - age   2:    1031176 bytes,    5184512 total
  private takeAge(letters: Letters, gcId: number, textAt: number): boolean {
    const { bytes, view } = letters;
    if (!standsAt(view, textAt, WORD.age)) return false;
    const { numbers } = this;
    const age = numbers.read(bytes, afterBlanks(bytes, textAt + 5));
    if (bytes[numbers.end] !== COLON) return false;
    const size = numbers.read(bytes, afterBlanks(bytes, numbers.end + 1));
    if (!standsAt(view, numbers.end, WORD.bytes)) return false;
    const total = numbers.read(bytes, afterBlanks(bytes, numbers.end + 8));
    if (!standsAt(view, numbers.end, WORD.total) || !Number.isInteger(age + size + total)) return false;
    this.run.addAge(gcId, { age, bytes: size });
    return true;
  }
}

function afterBlanks(bytes: Uint8Array, from: number): number {
  let at = from;
  while (bytes[at] === BLANK) at++;
  return at;
}
