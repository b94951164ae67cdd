import type { Entry, ZipFile } from 'yauzl'
import { fromBuffer } from 'yauzl'
import { FormatError } from '../../core/formats/format-error'

/** Files of a ZIP that is taken in, and bytes of all of them together when they are unpacked. */
const MOST_FILES = 5000
const MOST_BYTES = 512 * 1024 * 1024

/** Reads the files of a ZIP one by one; what it claims is not believed but counted. */
export class ZipReader {
  private unpacked = 0

  private constructor(
    private readonly zip: ZipFile,
    private readonly entries: ReadonlyMap<string, Entry>,
  ) {}

  /** @throws FormatError if it is none, or has more in it than is taken in */
  static async open(bytes: Uint8Array): Promise<ZipReader> {
    const zip = await new Promise<ZipFile>((resolve, reject) => {
      fromBuffer(
        Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength),
        { lazyEntries: true, validateEntrySizes: true },
        (error, opened) => (error ? reject(asFormatError(error)) : resolve(opened)),
      )
    })
    if (zip.entryCount > MOST_FILES)
      throw new FormatError(`it has more than ${MOST_FILES.toLocaleString('en')} files in it`)
    const entries = new Map<string, Entry>()
    let claimed = 0
    await new Promise<void>((resolve, reject) => {
      zip
        .on('entry', (entry: Entry) => {
          claimed += entry.uncompressedSize
          if (entries.has(entry.fileName))
            reject(new FormatError(`it has two files of the name ${entry.fileName.slice(0, 80)}`))
          else if (claimed > MOST_BYTES)
            reject(new FormatError(`unpacked it has more than the ${MOST_BYTES / 1024 / 1024} MB that are taken in`))
          else {
            entries.set(entry.fileName, entry)
            zip.readEntry()
          }
        })
        .once('end', resolve)
        .once('error', error => reject(asFormatError(error)))
      zip.readEntry()
    })
    return new ZipReader(zip, entries)
  }

  names(): string[] {
    return [...this.entries.keys()]
  }

  /**
   * What is in a file; null if there is no such one.
   *
   * @param most bytes it may have
   * @throws FormatError if it cannot be unpacked
   */
  async read(name: string, most = MOST_BYTES): Promise<Buffer | null> {
    const entry = this.entries.get(name)
    if (!entry) return null
    if (entry.uncompressedSize > most)
      throw new FormatError(`${name} in it has more than the ${most / 1024 / 1024} MB that are taken in`)
    this.unpacked += entry.uncompressedSize
    if (this.unpacked > MOST_BYTES)
      throw new FormatError(`unpacked it has more than the ${MOST_BYTES / 1024 / 1024} MB that are taken in`)
    return new Promise((resolve, reject) => {
      this.zip.openReadStream(entry, (error, stream) => {
        if (error) return reject(asFormatError(error))
        const chunks: Buffer[] = []
        stream
          .on('data', (chunk: Buffer) => chunks.push(chunk))
          .once('end', () => resolve(Buffer.concat(chunks)))
          .once('error', failed => reject(asFormatError(failed)))
      })
    })
  }
}

const asFormatError = (error: unknown) =>
  new FormatError(
    `it is no ZIP that can be read: ${error instanceof Error ? error.message.slice(0, 200) : String(error)}`,
  )
