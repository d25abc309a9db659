/** Archives as a stream of bytes: what goes in comes out packed beside this thread, so that it takes little memory. */
import { once } from 'node:events';
import { createDeflateRaw } from 'node:zlib';
import { Zip, ZipPassThrough, type ZipInputFile } from 'fflate';

/** Bytes that may wait to be packed. */
const WAITING = 1_000_000;
const LEVEL = 3;

const NOTHING = new Uint8Array();

/** A file of a zip that is packed beside this thread, by the platform's own zlib, and says when that has caught up. */
export class PackedFile extends ZipPassThrough {
  private readonly deflate = createDeflateRaw({ level: LEVEL });
  override compression = 8;

  constructor(path: string) {
    super(path);
    this.deflate
      .on('data', (bytes: Buffer<ArrayBuffer>) => this.ondata(null, bytes, false))
      .on('end', () => this.ondata(null, NOTHING, true))
      .on('error', (error) => this.ondata(error as never, NOTHING, false));
  }

  readonly terminate = () => void this.deflate.destroy();

  protected override process(bytes: Uint8Array, final: boolean): void {
    this.deflate.write(bytes);
    if (final) this.deflate.end();
  }

  /** Until little waits to be packed. */
  async caughtUp(): Promise<void> {
    if (this.deflate.writableLength > WAITING) await once(this.deflate, 'drain');
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
