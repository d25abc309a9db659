/** Archives as a stream of bytes: what goes in comes out packed, by a thread of its own, so that it takes little memory. */
import { AsyncDeflate, Zip, ZipPassThrough, type ZipInputFile } from 'fflate';

/** Bytes that may wait to be packed. */
const WAITING = 1_000_000;
const LEVEL = 3;

/** A file of a zip that is packed by a thread of its own, and says when that has caught up. */
export class PackedFile extends ZipPassThrough {
  private readonly deflate = new AsyncDeflate({ level: LEVEL }, (error, bytes, final) =>
    this.ondata(error, bytes, final),
  );
  override compression = 8;
  readonly terminate = this.deflate.terminate;

  protected override process(bytes: Uint8Array, final: boolean): void {
    this.deflate.push(bytes, final);
  }

  /** Until little waits to be packed. */
  async caughtUp(): Promise<void> {
    if (this.deflate.queuedSize <= WAITING) return;
    await new Promise<void>((resolve) => (this.deflate.ondrain = () => resolve()));
  }
}

/** What a zip gives, taken up as it comes. */
export class Packing {
  private readonly ready: Uint8Array[] = [];
  private over = false;
  private failure: Error | null = null;
  private wake: () => void = () => undefined;
  private readonly zip = new Zip((error, bytes, final) => {
    this.failure ??= error;
    if (bytes) this.ready.push(bytes);
    this.over ||= final;
    this.wake();
  });

  add(file: ZipInputFile): void {
    this.zip.add(file);
  }

  /** What is packed by now. @throws what went wrong */
  *take(): Generator<Uint8Array> {
    if (this.failure) throw this.failure;
    while (this.ready.length > 0) yield this.ready.shift()!;
  }

  /** The rest, once every file has ended. */
  async *end(): AsyncGenerator<Uint8Array> {
    this.zip.end();
    for (;;) {
      yield* this.take();
      if (this.over && this.ready.length === 0) return;
      await new Promise<void>((resolve) => (this.wake = resolve));
    }
  }

  stop(): void {
    this.zip.terminate();
  }
}
