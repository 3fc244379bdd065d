const TYPES = { ref: 2, int: 10, long: 11 } as const;
type Type = keyof typeof TYPES;

interface ClassParts {
  readonly fields?: Readonly<Partial<Record<'referent', Type>>> | Readonly<{ [name: string]: Type }>;
  readonly statics?: Readonly<{ [name: string]: readonly [Type, number] }>;
  readonly at?: number;
}

/** Writes a JVM's heap dump by hand. */
export class DumpWriter {
  private readonly head: number[] = [];
  private readonly parts: number[] = [];
  private readonly idBytes: 4 | 8;
  private readonly names = new Map<string, number>();
  private readonly classes = new Map<string, number>();

  constructor(idBytes: 4 | 8) {
    this.idBytes = idBytes;
    this.head.push(...new TextEncoder().encode('JAVA PROFILE 1.0.2\0'), ...u4(idBytes), ...u4(0), ...u4(1000));
  }

  private id(value: number): number[] {
    return this.idBytes === 4 ? u4(value) : [...u4(Math.floor(value / 2 ** 32)), ...u4(value)];
  }

  private name(text: string): number {
    let id = this.names.get(text);
    if (id === undefined) {
      this.names.set(text, (id = 0x500 + this.names.size));
      const bytes = [...this.id(id), ...new TextEncoder().encode(text)];
      this.head.push(0x01, ...u4(0), ...u4(bytes.length), ...bytes);
    }
    return id;
  }

  private value(type: Type, value: number): number[] {
    return type === 'ref' ? this.id(value) : type === 'int' ? u4(value) : [...u4(0), ...u4(value)];
  }

  class(name: string, above: number, { fields = {}, statics = {}, at }: ClassParts): number {
    const address = at ?? 0x1000 + 0x100 * this.classes.size;
    this.classes.set(name.replaceAll('/', '.'), address);
    const text = this.name(name);
    this.head.push(
      0x02,
      ...u4(0),
      ...u4(8 + 2 * this.idBytes),
      ...u4(1),
      ...this.id(address),
      ...u4(0),
      ...this.id(text),
    );
    const ids = [above, 0, 0, 0, 0, 0].flatMap((each) => this.id(each));
    this.parts.push(
      0x20,
      ...this.id(address),
      ...u4(0),
      ...ids,
      ...u4(0),
      ...u2(0),
      ...u2(Object.keys(statics).length),
    );
    for (const [field, [type, value]] of Object.entries(statics))
      this.parts.push(...this.id(this.name(field)), TYPES[type], ...this.value(type, value));
    this.parts.push(...u2(Object.keys(fields).length));
    for (const [field, type] of Object.entries(fields))
      this.parts.push(...this.id(this.name(field)), TYPES[type as Type]);
    return address;
  }

  classAt(name: string): number {
    return this.classes.get(name.replaceAll('/', '.'))!;
  }

  instance(address: number, ofClass: number, values: readonly (readonly [Type, number])[]): void {
    const bytes = values.flatMap(([type, value]) => this.value(type, value));
    this.parts.push(0x21, ...this.id(address), ...u4(0), ...this.id(ofClass), ...u4(bytes.length), ...bytes);
  }

  references(address: number, ofClass: number, to: readonly number[]): void {
    this.parts.push(0x22, ...this.id(address), ...u4(0), ...u4(to.length), ...this.id(ofClass));
    this.parts.push(...to.flatMap((each) => this.id(each)));
  }

  bytes(address: number, length: number, value = 7): void {
    this.parts.push(0x23, ...this.id(address), ...u4(0), ...u4(length), 8, ...new Array<number>(length).fill(value));
  }

  longs(address: number, values: readonly (readonly [high: number, low: number])[]): void {
    this.parts.push(0x23, ...this.id(address), ...u4(0), ...u4(values.length), 11);
    this.parts.push(...values.flatMap(([high, low]) => [...u4(high), ...u4(low)]));
  }

  /** A root of one of the tags that are followed by 0 or 8 bytes. */
  root(tag: 0x03 | 0x05, address: number): void {
    this.parts.push(tag, ...this.id(address), ...(tag === 0x03 ? [...u4(1), ...u4(0)] : []));
  }

  raw(bytes: readonly number[]): void {
    this.parts.push(...bytes);
  }

  finish(): Uint8Array {
    return Uint8Array.from([
      ...this.head,
      0x1c,
      ...u4(0),
      ...u4(this.parts.length),
      ...this.parts,
      0x2c,
      ...u4(0),
      ...u4(0),
    ]);
  }
}

const u2 = (value: number): number[] => [(value >>> 8) & 255, value & 255];
const u4 = (value: number): number[] => [(value >>> 24) & 255, (value >>> 16) & 255, (value >>> 8) & 255, value & 255];
