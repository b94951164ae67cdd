import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { transfer } from 'comlink'
import { MeshoptDecoder } from 'meshoptimizer'
import { Box3, Vector3 } from 'three'
import type { ImportChoice, ImportedPart } from '~~/core/formats/import/choice'
import { chosenParts } from '~~/core/formats/import/choice'
import type { Decoders } from '~~/core/formats/import/gltf-file'
import type { Foreign } from '~~/core/formats/import/gltf-parts'
import { readForeign } from '~~/core/formats/import/gltf-parts'
import type { GivenFile } from '~~/core/formats/import/pack'
import { packFiles } from '~~/core/formats/import/pack'
import { guessUnit } from '~~/core/formats/import/standing'
import { GlbError } from '~~/core/formats/glb-chunks'
import { writePartGlb } from '~~/core/formats/part-glb'
import { meshBounds } from '~~/core/mesh/mesh'
import type { Picture } from '~~/core/mesh/texture'
import type { LengthUnit } from '~~/core/units/quantity'

/** A texture's picture: what it is, and its size. */
export type PictureFacts = { name: string; type: string; width: number; height: number; bytes: number }
export type ImportFacts = { names: string[]; unit: LengthUnit; materials: string[]; notes: string[] }
export type ImportResult = { parts: ImportedPart[]; pictures: { facts: PictureFacts; picture: Picture }[] }

/** The words of a refusal survive the way to the page; its class does not. */
type Refused = { refused: string }

async function orRefused<T>(work: () => Promise<T>): Promise<T | Refused> {
  try {
    return await work()
  } catch (error) {
    return {
      refused:
        error instanceof GlbError
          ? error.message
          : `it cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    }
  }
}

async function decoders(glb: Uint8Array): Promise<Decoders> {
  await MeshoptDecoder.ready
  const isDraco = new TextDecoder()
    .decode(glb.subarray(0, Math.min(glb.length, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true))))
    .includes('KHR_draco_mesh_compression')
  if (!isDraco) return { meshopt: MeshoptDecoder }
  const [{ default: createDecoder }, { default: address }] = await Promise.all([
    import('draco3dgltf/draco_decoder_gltf_nodejs.js'),
    import('draco3dgltf/draco_decoder_gltf.wasm?url'),
  ])
  const wasmBinary = await (await fetch(address)).arrayBuffer()
  return { meshopt: MeshoptDecoder, draco: await createDecoder({ wasmBinary }) }
}

const decoded = ({ bytes, type }: Picture) => createImageBitmap(new Blob([bytes as Uint8Array<ArrayBuffer>], { type }))

async function smaller(name: string, picture: Picture, pixels: number): Promise<{ name: string; picture: Picture }> {
  const image = await decoded(picture)
  const share = pixels / Math.max(image.width, image.height)
  let result = { name, picture }
  if (share < 1) {
    const canvas = new OffscreenCanvas(
      Math.max(1, Math.round(image.width * share)),
      Math.max(1, Math.round(image.height * share)),
    )
    const context = canvas.getContext('2d')!
    context.imageSmoothingQuality = 'high'
    context.drawImage(image, 0, 0, canvas.width, canvas.height)
    const blob = await canvas.convertToBlob({ type: picture.type, quality: 0.92 })
    const bytes = new Uint8Array(await blob.arrayBuffer())
    result = { name: bytesToHex(sha256(bytes)), picture: { type: blob.type as Picture['type'], bytes } }
  }
  image.close()
  return result
}

async function factsOf(name: string, picture: Picture): Promise<PictureFacts> {
  const image = await decoded(picture).catch(() => {
    throw new GlbError(`the picture of a texture (${picture.type}) cannot be read`)
  })
  const { width, height } = image
  image.close()
  return { name, type: picture.type, width, height, bytes: picture.bytes.length }
}

/** Reading what is brought in, where it can be ended if it takes too long. */
export function importWork() {
  let foreign: Foreign | null = null
  let made: { parts: ImportedPart[]; pictures: Map<string, Picture> } | null = null
  const smallerOnes = new Map<string, { name: string; picture: Picture }>()

  async function smallerOnce(
    name: string,
    picture: Picture,
    pixels: number,
  ): Promise<{ name: string; picture: Picture }> {
    const key = `${pixels} ${name}`
    const known = smallerOnes.get(key) ?? (await smaller(name, picture, pixels))
    smallerOnes.set(key, known)
    return known
  }

  return {
    /** Puts files together to one, for the server to look at. */
    pack: (files: GivenFile[]): Promise<Uint8Array | Refused> =>
      orRefused(async () => {
        const glb = packFiles(files)
        return transfer(glb, [glb.buffer])
      }),

    open: (glb: Uint8Array): Promise<ImportFacts | Refused> =>
      orRefused(async () => {
        foreign = await readForeign(glb, await decoders(glb))
        const size = foreign.tops
          .reduce((box, { mesh }) => box.union(meshBounds(mesh)), new Box3())
          .getSize(new Vector3())
        const materials = new Set(
          foreign.tops.flatMap(({ mesh }) => mesh.primitives.map(({ material }) => material.name || 'without a name')),
        )
        return {
          names: foreign.tops.map(({ name }) => name),
          unit: guessUnit(size),
          materials: [...materials],
          notes: foreign.notes,
        }
      }),

    choose: (choice: ImportChoice): Promise<ImportResult | Refused> =>
      orRefused(async () => {
        if (!foreign) throw new GlbError('there is nothing to choose from')
        made = await chosenParts(foreign, choice, smallerOnce)
        const pictures = await Promise.all(
          [...made.pictures].map(async ([name, picture]) => ({ facts: await factsOf(name, picture), picture })),
        )
        return { parts: made.parts, pictures }
      }),

    /** One of the parts last chosen as a file, with its pictures in it. */
    write: async (index: number, name: string): Promise<Uint8Array> => {
      const { parts, pictures } = made!
      const glb = await writePartGlb(name, parts[index]!.mesh, picture => pictures.get(picture)!)
      return transfer(glb, [glb.buffer])
    },
  }
}

export type ImportWork = ReturnType<typeof importWork>
