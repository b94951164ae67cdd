import type { FileHandle } from 'node:fs/promises'
import { open } from 'node:fs/promises'

/** Bytes that are gathered before they are written. */
const GATHERED = 256 * 1024

/** A file that is written piece by piece, in order; what goes wrong with the disk is told to who writes. */
export class FileSink {
  /** Bytes given to it so far. */
  length = 0
  private pieces: Uint8Array[] = []
  private gathered = 0

  private constructor(private readonly file: FileHandle) {}

  static async open(path: string): Promise<FileSink> {
    return new FileSink(await open(path, 'w'))
  }

  /** @returns when there is room for more; nothing if there is */
  write(piece: Uint8Array | string): Promise<void> | undefined {
    const bytes = typeof piece === 'string' ? Buffer.from(piece) : piece
    this.pieces.push(bytes)
    this.length += bytes.length
    this.gathered += bytes.length
    return this.gathered > GATHERED ? this.flush() : undefined
  }

  private async flush(): Promise<void> {
    const [bytes, pieces] = [this.gathered, this.pieces]
    this.pieces = []
    this.gathered = 0
    const { bytesWritten } = await this.file.writev(pieces)
    // A full disk may take some of it first.
    if (bytesWritten < bytes) await this.file.write(Buffer.concat(pieces).subarray(bytesWritten))
  }

  /** Writes the rest, and closes the file. */
  async end(): Promise<void> {
    await this.flush()
    await this.close()
  }

  close(): Promise<void> {
    return this.file.close()
  }
}
