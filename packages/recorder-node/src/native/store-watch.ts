/* eslint-disable @typescript-eslint/no-explicit-any -- functions of every shape are wrapped as they are */
type AnyFunction = (this: unknown, ...args: any[]) => any;

/** Makes a store known: the object whose death is the store's, whether it is a Buffer, and its bytes. */
export type Follow = (store: object, isBuffer: boolean, bytes: number) => void;

/** Functions of Buffer that make a store of their own. */
const MAKERS = ['alloc', 'allocUnsafe', 'allocUnsafeSlow', 'from', 'concat', 'copyBytesFrom'] as const;

/**
 * Watches what the program asks of `Buffer` and `ArrayBuffer`, whose stores lie outside the collected heap: every store
 * of *s* bytes is followed with probability 1 − e^(−s/I). What the program can see of them stays as it was. Typed
 * arrays that make a store of their own are not watched: wrapping their constructors takes the runtime off its fast
 * ways.
 */
export class StoreWatch {
  private readonly intervalBytes: number;
  private readonly follow: Follow;
  private leftBytes: number;
  private active = true;

  constructor(intervalBytes: number, follow: Follow) {
    this.intervalBytes = intervalBytes;
    this.follow = follow;
    this.leftBytes = this.draw();
  }

  /** Puts the watch in place, in this realm. */
  install(): void {
    for (const name of MAKERS) this.wrapMaker(name);
    this.wrapConstructor();
  }

  /** From now on nothing is followed; the wrappers stay, for the program may hold them. */
  stop(): void {
    this.active = false;
  }

  private draw(): number {
    return -Math.log(1 - Math.random()) * this.intervalBytes;
  }

  private wrapMaker(name: (typeof MAKERS)[number]): void {
    const original = Reflect.get(Buffer, name) as AnyFunction | undefined;
    const descriptor = Object.getOwnPropertyDescriptor(Buffer, name);
    if (
      original === undefined ||
      descriptor === undefined ||
      !('value' in descriptor) ||
      descriptor.configurable !== true
    )
      return;
    const isDrawn = (bytes: number): boolean => this.isDrawn(bytes);
    const follow = (result: Buffer): void => this.followBuffer(result);
    // Shares memory that is there already.
    const shares =
      name === 'from'
        ? (source: unknown): boolean => source instanceof ArrayBuffer || source instanceof SharedArrayBuffer
        : null;
    const wrapper = {
      [name](this: unknown, ...args: any[]): any {
        const result = original.apply(this, args) as Buffer;
        if (isDrawn(result.byteLength) && (shares === null || !shares(args[0]))) follow(result);
        return result;
      },
    }[name] as AnyFunction;
    Object.defineProperty(wrapper, 'length', { value: original.length, configurable: true });
    Object.defineProperty(wrapper, 'name', { value: original.name, configurable: true });
    Object.defineProperty(Buffer, name, { ...descriptor, value: wrapper });
  }

  private wrapConstructor(): void {
    const isDrawn = (bytes: number): boolean => this.isDrawn(bytes);
    const { follow } = this;
    const watched = new Proxy(ArrayBuffer, {
      construct(target, args, newTarget): object {
        const result = Reflect.construct(target, args, newTarget) as ArrayBuffer;
        if (isDrawn(result.byteLength)) follow(result, false, result.byteLength);
        return result;
      },
    });
    Object.defineProperty(ArrayBuffer.prototype, 'constructor', {
      value: watched,
      writable: true,
      enumerable: false,
      configurable: true,
    });
    Object.defineProperty(globalThis, 'ArrayBuffer', {
      value: watched,
      writable: true,
      enumerable: false,
      configurable: true,
    });
  }

  private isDrawn(bytes: number): boolean {
    this.leftBytes -= bytes;
    if (this.leftBytes > 0) return false;
    this.leftBytes = this.draw();
    return this.active && bytes > 0;
  }

  // A small buffer is a piece of a pool: its own life is what counts. A large one's store may outlive the buffer, in a
  // slice of it.
  private followBuffer(buffer: Buffer): void {
    const isPiece = buffer.buffer.byteLength > buffer.byteLength;
    this.follow(isPiece ? buffer : buffer.buffer, true, buffer.byteLength);
  }
}
