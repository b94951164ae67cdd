import { z } from 'zod'
import { GlbError, isGlb, MAGIC, parseDescription, readChunks } from '../glb-chunks'

/** A file as it was given: its name, with the folders it lay in if those are known. */
export type GivenFile = { name: string; bytes: Uint8Array }

/** Bytes of a foreign file's description. */
const MOST_JSON = 16 * 1024 * 1024
/** What may lie in an address itself. */
const DATA_TYPES = ['application/octet-stream', 'application/gltf-buffer', 'image/png', 'image/jpeg', 'image/webp']

const uri = z.string().optional()
const view = z.looseObject({
  buffer: z.int().min(0),
  byteOffset: z.int().min(0).optional(),
  byteLength: z.int().min(1),
})
const packedSchema = z.looseObject({
  asset: z.looseObject(
    { version: z.string().regex(/^2\./, 'only glTF 2.0 is taken in here') },
    'it is no glTF: it does not say of which version',
  ),
  buffers: z
    .array(
      z.looseObject({
        byteLength: z.int().min(1),
        uri,
        extensions: z
          .looseObject({ EXT_meshopt_compression: z.looseObject({ fallback: z.boolean().optional() }).optional() })
          .optional(),
      }),
    )
    .max(10_000)
    .default([]),
  bufferViews: z
    .array(view.extend({ extensions: z.looseObject({ EXT_meshopt_compression: view.optional() }).optional() }))
    .max(1_000_000)
    .default([]),
  images: z
    .array(z.looseObject({ uri, mimeType: z.string().optional() }))
    .max(256, 'more than 256 pictures are not taken in here')
    .default([]),
})

/**
 * Makes one binary glTF file of a glTF file and those it names. Nothing is ever fetched: what it names has to be given
 * with it. Indices of what is in it stay as they were, so that what is said of the one file holds for the other.
 *
 * @throws GlbError with what is wrong, or missing
 */
export function packFiles(files: readonly GivenFile[]): Uint8Array {
  const main = mainOf(files)
  const { json, binary } = isGlb(main.bytes)
    ? readChunks(main.bytes, MOST_JSON)
    : { json: parseDescription(main.bytes, MOST_JSON), binary: null }
  const parsed = packedSchema.safeParse(json)
  if (!parsed.success) {
    const { path, message } = parsed.error.issues[0]!
    throw new GlbError(path.length > 0 ? `${path.join('.')}: ${message}` : 'its description is no glTF')
  }
  const gltf = parsed.data
  const find = finder(files, main)
  const data = new DataWriter()
  // Of each buffer, where it lies in the one that is written; of one that is made only when decoded, its number after
  // that one.
  const places: ({ at: number } | { number: number })[] = []
  const made: object[] = []
  const missing: string[] = []
  const bytesOf = (address: string, what: string) => resolve(address, what, find, missing)
  gltf.buffers.forEach((buffer, i) => {
    if (buffer.extensions?.EXT_meshopt_compression?.fallback && buffer.uri === undefined) {
      places.push({ number: made.push({ byteLength: buffer.byteLength, extensions: buffer.extensions }) })
      return
    }
    const bytes = buffer.uri === undefined ? (i === 0 ? binary : null) : bytesOf(buffer.uri, `buffers.${i}`)
    if (!bytes) throw new GlbError(`buffers.${i}: its data are not in the file`)
    if (missing.length === 0 && bytes.length < buffer.byteLength)
      throw new GlbError(
        `buffers.${i}: is ${buffer.byteLength.toLocaleString('en')} bytes long, but only ${bytes.length.toLocaleString('en')} are there`,
      )
    places.push({ at: data.add(bytes) })
  })
  const moved = <T extends z.infer<typeof view>>(each: T, what: string): T => {
    const place = places[each.buffer]
    if (!place) throw new GlbError(`${what}: there is no such buffer`)
    return 'at' in place
      ? { ...each, buffer: 0, byteOffset: (each.byteOffset ?? 0) + place.at }
      : { ...each, buffer: place.number }
  }
  const bufferViews: object[] = gltf.bufferViews.map((each, i) => {
    const packed = each.extensions?.EXT_meshopt_compression
    return {
      ...moved(each, `bufferViews.${i}`),
      ...(packed
        ? { extensions: { ...each.extensions, EXT_meshopt_compression: moved(packed, `bufferViews.${i}`) } }
        : {}),
    }
  })
  const images = gltf.images.map(({ uri: address, ...image }, i) => {
    if (address === undefined) return image
    const bytes = bytesOf(address, `images.${i}`)
    const bufferView =
      bufferViews.push({ buffer: 0, byteOffset: data.add(bytes), byteLength: Math.max(bytes.length, 1) }) - 1
    return { ...image, bufferView, mimeType: image.mimeType ?? typeByName(address) }
  })
  if (missing.length > 0)
    throw new GlbError(
      `it names files that were not given with it: ${[...new Set(missing)].slice(0, 5).join(', ')}${missing.length > 5 ? ' …' : ''}; choose or drop them together`,
    )
  const buffers = [...(data.length > 0 ? [{ byteLength: data.length }] : []), ...made]
  return glbOf(
    textOf({ ...gltf, ...some('buffers', buffers), ...some('bufferViews', bufferViews), ...some('images', images) }),
    data,
  )
}

function textOf(json: object): Uint8Array {
  try {
    return new TextEncoder().encode(JSON.stringify(json))
  } catch {
    throw new GlbError('its description is nested too deeply')
  }
}

/** The standard allows no empty lists. */
const some = (key: string, list: readonly object[]) => ({ [key]: list.length > 0 ? list : undefined })

function mainOf(files: readonly GivenFile[]): GivenFile {
  const named = files.filter(({ name }) => /\.(glb|gltf)$/i.test(name))
  const found = named.length > 0 ? named : files.filter(({ bytes }) => isGlb(bytes))
  if (found.length === 0) throw new GlbError('none of these is a glTF file (.glb or .gltf)')
  if (found.length > 1) throw new GlbError(`bring in one glTF file at a time; these are ${found.length}`)
  return found[0]!
}

/** Finds a file by the address in another: by its whole path, or else by its name alone. */
function finder(files: readonly GivenFile[], main: GivenFile): (path: string) => Uint8Array | null {
  const folder = main.name.replace(/[^/]*$/, '')
  const plain = (path: string) => path.replace(/^\.\//, '').toLowerCase()
  return path => {
    const wanted = plain(folder + path)
    const name = wanted.split('/').at(-1)
    return (
      (
        files.find(file => plain(file.name) === wanted)
        ?? files.find(file => plain(file.name).split('/').at(-1) === name)
      )?.bytes ?? null
    )
  }
}

function resolve(
  address: string,
  what: string,
  find: (path: string) => Uint8Array | null,
  missing: string[],
): Uint8Array {
  const data = /^data:([^;,]*)(;[^,]*)?,/i.exec(address)
  if (data) {
    if (!DATA_TYPES.includes(data[1]!.toLowerCase()) || !/;base64$/i.test(data[2] ?? ''))
      throw new GlbError(`${what}: data of the kind "${data[1] || 'none'}" are not taken in here`)
    return fromBase64(address.slice(data[0].length), what)
  }
  if (/^[a-z][a-z0-9+.-]*:|^\/\//i.test(address))
    throw new GlbError(
      `${what}: names an address elsewhere (${address.slice(0, 80)}), and nothing is ever fetched; give the file along with it`,
    )
  let path = address
  try {
    path = decodeURIComponent(address)
  } catch {
    // Then it is a name as it stands.
  }
  const bytes = find(path)
  if (!bytes) missing.push(path.slice(0, 80))
  return bytes ?? new Uint8Array(0)
}

function fromBase64(text: string, what: string): Uint8Array {
  try {
    return Uint8Array.from(atob(text), character => character.charCodeAt(0))
  } catch {
    throw new GlbError(`${what}: its data are not in base64`)
  }
}

const typeByName = (name: string) =>
  /\.jpe?g$|^data:image\/jpeg/i.test(name)
    ? 'image/jpeg'
    : /\.webp$|^data:image\/webp/i.test(name)
      ? 'image/webp'
      : 'image/png'

/** Puts buffers one after another, each where numbers of every kind may begin. */
class DataWriter {
  length = 0
  private readonly pieces: { at: number; bytes: Uint8Array }[] = []

  /** @returns where it begins */
  add(bytes: Uint8Array): number {
    const at = this.length
    this.pieces.push({ at, bytes })
    this.length = at + Math.ceil(bytes.length / 8) * 8
    return at
  }

  writeTo(target: Uint8Array): void {
    for (const { at, bytes } of this.pieces) target.set(bytes, at)
  }
}

function glbOf(text: Uint8Array, data: DataWriter): Uint8Array {
  const jsonLength = Math.ceil(text.length / 4) * 4
  const whole = new Uint8Array(20 + jsonLength + (data.length > 0 ? 8 + data.length : 0))
  const words = new DataView(whole.buffer)
  const head = [MAGIC[0], MAGIC[1], whole.length, jsonLength, MAGIC[2]]
  head.forEach((word, i) => words.setUint32(i * 4, word, true))
  whole.fill(0x20, 20 + text.length, 20 + jsonLength)
  whole.set(text, 20)
  if (data.length > 0) {
    words.setUint32(20 + jsonLength, data.length, true)
    words.setUint32(24 + jsonLength, MAGIC[3], true)
    data.writeTo(whole.subarray(28 + jsonLength))
  }
  return whole
}
