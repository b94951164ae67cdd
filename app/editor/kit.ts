import { Box3, Vector3 } from 'three'
import { createEventHook } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, markRaw, ref, shallowRef } from 'vue'
import { readPartGlb, readStepsGlb, storedPicture, writePartGlb } from '~~/core/formats/part-glb'
import type { Mesh } from '~~/core/mesh/mesh'
import { picturesOf } from '~~/core/mesh/mesh'
import type { Picture, PictureType } from '~~/core/mesh/texture'
import { missingMesh } from '~~/core/mesh/missing-mesh'
import { Solid } from '~~/core/mesh/solid'
import { ShapeLibrary } from '~~/core/scene/shapes'
import { fits } from '~~/core/edit/snap/sockets'
import type { Part, Socket, KitEntry } from '~~/core/level/part'
import type { MadePart, PartCopy, PartPatch } from '~~/core/api/schema'
import { asName } from '~~/core/units/text'
import type { NewPart } from '~/api/client'
import { api, ApiFailure, ServerAway } from '~/api/client'
import { textureImage } from '~/api/texture-images'
import type { StepSolid } from '~/stage/drawables'
import { takePartPictures } from '~/stage/part-pictures'
import { orNothing } from '~/errors/or-nothing'

/** The catalogue and the meshes of its parts, each loaded once, and the meshes of blocks and of what is bent. */
export const useKit = defineStore('kit', () => {
  const known = shallowRef<readonly Part[]>([])
  /** How many entries of the kit cannot be read. */
  const unreadable = ref(0)
  const entries = shallowRef<readonly KitEntry[]>([])
  /** Addresses of the pictures taken in this window. */
  const taken = shallowRef<ReadonlyMap<string, string>>(new Map())
  /** Which kit is shown; all if null. */
  const shownKit = ref<string | null>(null)
  const shapes = markRaw(new ShapeLibrary())
  const steps = markRaw(new Map<string, readonly StepSolid[]>())
  /** Simpler meshes of a part have come. */
  const stepsHook = createEventHook()
  /** How many of them are on their way. */
  let stepsComing = 0
  let loading: Promise<void> | undefined
  /** Counts what is done to the kit here. */
  let edits = 0

  /** Those that can be placed from the kit. */
  const parts = computed(() => known.value.filter(entry => entry.inKit))

  /** Loads the kit with all its meshes. @throws ServerAway */
  function load(): Promise<void> {
    loading ??= fetchAll().catch((error: unknown) => {
      loading = undefined
      throw error
    })
    return loading
  }

  async function fetchAll(): Promise<void> {
    const listed = await api.kit()
    const broken = new Set<string>()
    const loaded = await Promise.all(
      listed.parts.map(async (entry): Promise<Part> => {
        try {
          if (!shapes.has(entry.id)) await fetchMesh(entry)
          return entry
        } catch (error) {
          // One mesh that makes no sense does not keep the others away.
          if (error instanceof ServerAway) throw error
          broken.add(entry.id)
          putMissing(entry.id, entry.name, new Box3(new Vector3(...entry.boundsMin), new Vector3(...entry.boundsMax)))
          return entry
        }
      }),
    )
    known.value = loaded
    entries.value = listed.entries
    unreadable.value = listed.unreadable + broken.size
  }

  /**
   * Takes up what others did to the kit.
   *
   * @returns ids of parts that look otherwise now, or do otherwise when they are placed @throws ApiFailure, ServerAway
   */
  async function refresh(): Promise<Set<string>> {
    const changed = new Set<string>()
    const begun = edits
    const before = new Map(known.value.map(entry => [entry.id, entry]))
    const listed = await api.kit()
    // What was done here meanwhile may not be in the answer; it is told as well.
    if (edits !== begun) return refresh()
    for (const entry of listed.parts) {
      const old = before.get(entry.id)
      if (!old || JSON.stringify(old) !== JSON.stringify(entry)) {
        await takeUp(entry).catch((error: unknown) => {
          if (error instanceof ServerAway) throw error
          unreadable.value++
        })
        changed.add(entry.id)
      }
      before.delete(entry.id)
    }
    // Their meshes stay: somebody here may have placed one that nobody else knows of yet.
    known.value = known.value.filter(({ id }) => !before.has(id))
    entries.value = listed.entries
    return changed
  }

  async function fetchMesh({ id, meshHash }: Part): Promise<void> {
    shapes.put(id, meshHash, (await readPartGlb(await api.mesh(meshHash))).mesh)
    // It is made ready now: a hand that places it later does not wait.
    shapes.solid(id)
  }
  const putMissing = (id: string, name: string, box: Box3) => shapes.put(id, `missing ${id}`, missingMesh(name, box))

  /** Loads parts that somebody else has made meanwhile. @returns whether there were any */
  async function loadMissing(ids: readonly string[]): Promise<boolean> {
    if (ids.every(id => shapes.has(id))) return false
    await fetchAll()
    for (const id of ids)
      if (!shapes.has(id)) putMissing(id, 'a part', new Box3(new Vector3(-0.5, 0, -0.5), new Vector3(0.5, 1, 0.5)))
    return true
  }

  /**
   * Takes the pictures of parts of which none is kept yet.
   *
   * @param keeps whether this person may keep them with the parts
   */
  async function takePictures(keeps: boolean): Promise<void> {
    const without = parts.value.filter(({ id, hasPicture }) => !hasPicture && !taken.value.has(id) && shapes.has(id))
    if (without.length === 0) return
    await takePartPictures(new Map(without.map(({ id }) => [id, shapes.solid(id)!])), textureImage, (id, picture) => {
      taken.value = new Map([...taken.value, [id, URL.createObjectURL(picture)]])
      if (keeps) void api.putPartPicture(id, picture).catch(orNothing)
    })
  }

  /** The address of a part's picture; null while there is none. */
  function pictureOf({ id, hasPicture, meshHash }: Part): string | null {
    return taken.value.get(id) ?? (hasPicture ? `/api/parts/${id}/picture?${meshHash.slice(0, 16)}` : null)
  }

  /**
   * Makes a part of a mesh.
   *
   * @param pictures those of its textures that the server may not have
   * @throws ApiFailure, ServerAway
   */
  async function create(made: NewPart, mesh: Mesh, pictures: ReadonlyMap<string, Picture> = new Map()): Promise<Part> {
    const name = asName(made.name)
    const part = await api.createPart(
      { ...made, name },
      await writePartGlb(name, mesh, picture => pictures.get(picture) ?? storedPicture(picture)),
    )
    shapes.put(part.id, part.meshHash, mesh)
    edits++
    known.value = [...known.value, part]
    return part
  }

  /** Makes a part of a file that holds its mesh and its pictures. @throws ApiFailure, ServerAway */
  async function bring(made: NewPart, glb: Uint8Array): Promise<Part> {
    return adopt(await api.createPart(made, glb))
  }

  /** Makes a part of things. @throws ApiFailure, ServerAway */
  async function make(made: MadePart): Promise<Part> {
    return adopt(await api.makePart(made))
  }

  /**
   * Makes a part's mesh, and those of all parts it is in, of what is in its workshop now.
   *
   * @returns those
   * @throws ApiFailure, ServerAway
   */
  async function remake(id: string): Promise<Part[]> {
    const made = await api.remakePart(id)
    for (const each of made) await adopt(each)
    return made
  }

  /** Makes a part of its own that is like another. @throws ApiFailure, ServerAway */
  async function copy(from: string, made: PartCopy): Promise<Part> {
    return adopt(await api.copyPart(from, made))
  }

  /** Takes a part as the server has it now, with its mesh. */
  async function adopt(entry: Part): Promise<Part> {
    edits++
    return takeUp(entry)
  }

  async function takeUp(entry: Part): Promise<Part> {
    if (part(entry.id)?.meshHash !== entry.meshHash) {
      await fetchMesh(entry)
      steps.delete(entry.id)
      taken.value = new Map([...taken.value].filter(([id]) => id !== entry.id))
    }
    known.value = part(entry.id)
      ? known.value.map(each => (each.id === entry.id ? entry : each))
      : [...known.value, entry]
    return entry
  }

  /**
   * Changes what a part is called and found by, and where new placements of it have their pivot.
   *
   * @throws ApiFailure, ServerAway
   */
  async function patch(id: string, changed: PartPatch): Promise<void> {
    await adopt(await api.patchPart(id, changed))
  }

  /** Takes a part that no level uses out of the kit. @returns what puts it back @throws ApiFailure, ServerAway */
  async function remove(id: string): Promise<() => Promise<void>> {
    const { name, kind, tags, inKit, kit, sockets, pivot } = part(id)!
    const { mesh } = shapes.solid(id)!
    // They go with the part, if nothing else shows them.
    const pictures = new Map<string, Picture>()
    for (const picture of picturesOf(mesh)) pictures.set(picture, await pictureFrom(await api.texture(picture)))
    await api.deletePart(id)
    edits++
    known.value = known.value.filter(entry => entry.id !== id)
    shapes.drop(id)
    return async () => {
      await create({ id, name, kind, tags, inKit, kit, sockets }, mesh, pictures)
      await patch(id, { pivot })
    }
  }

  /** The kits there are, by their names. */
  const kits = computed(() => [...new Set(parts.value.map(entry => entry.kit))].sort())

  /** Makes some parts one entry, or changes one. @throws ApiFailure, ServerAway */
  async function putKitEntry(entry: KitEntry): Promise<void> {
    const put = await api.putKitEntry(entry)
    edits++
    entries.value = [...entries.value.filter(({ id }) => id !== put.id), put]
  }

  /** @throws ApiFailure, ServerAway */
  async function removeVariants(id: string): Promise<void> {
    await api.deleteKitEntry(id)
    edits++
    entries.value = entries.value.filter(entry => entry.id !== id)
  }

  /** Does what needs the server, or says that it is away. */
  async function online(work: () => Promise<unknown>, tell: (title: string, lines: string[]) => void): Promise<void> {
    try {
      await work()
    } catch (error) {
      if (!(error instanceof ServerAway || error instanceof ApiFailure)) throw error
      tell(error instanceof ServerAway ? 'This needs the server' : 'This is not possible', [
        error.message,
        'Nothing was changed.',
      ])
    }
  }

  /** The same for a form. @returns what is to be said in it; null if it was done */
  async function attempt(work: () => Promise<unknown>): Promise<string | null> {
    let wrong: string | null = null
    await online(work, (_, [message]) => (wrong = message ?? ''))
    return wrong
  }

  const part = (id: string) => known.value.find(entry => entry.id === id)

  /** The sockets of the part that a mesh is of. */
  const socketsOf = (of: Solid): readonly Socket[] => bySolid.value.get(of)?.sockets ?? []
  const bySolid = computed(
    () =>
      new Map(
        known.value.flatMap(entry =>
          shapes.has(entry.id) && entry.sockets.length > 0 ? [[shapes.solid(entry.id)!, entry]] : [],
        ),
      ),
  )

  /** What stands for a shape at a distance, as far as it is here; asking for it loads it. */
  function stepsOf(shape: string): readonly StepSolid[] {
    const known = steps.get(shape)
    if (known) return known
    const entry = part(shape)
    steps.set(shape, [])
    if (entry) {
      stepsComing++
      void api
        .meshSteps(entry.meshHash)
        .then(async glb => {
          if (!glb) return
          steps.set(
            shape,
            (await readStepsGlb(glb)).map(({ mesh, error }) => ({ solid: new Solid(mesh), error })),
          )
          void stepsHook.trigger()
        })
        .catch(orNothing)
        .finally(() => stepsComing--)
    }
    return []
  }

  /** The pieces that fit an end, each by each of its own that does. */
  function piecesFor(socket: Socket): { part: Part; solid: Solid; socket: Socket }[] {
    // First those by which a piece goes on as the one before it lies.
    const against = ({ direction }: Socket) =>
      direction.reduce((sum, value, axis) => sum + value * socket.direction[axis]!, 0)
    return parts.value.flatMap(entry =>
      entry.sockets
        .filter(own => fits(own, socket))
        .toSorted((a, b) => against(a) - against(b))
        .flatMap(own => {
          const of = shapes.solid(entry.id)
          return of ? [{ part: entry, solid: of, socket: own }] : []
        }),
    )
  }

  const tagsOf = (id: string): readonly string[] => part(id)?.tags ?? []

  return {
    parts,
    all: known,
    entries,
    kits,
    shownKit,
    unreadable,
    pictureOf,
    putKitEntry,
    removeVariants,
    load,
    loadMissing,
    refresh,
    takePictures,
    create,
    bring,
    make,
    remake,
    copy,
    remove,
    online,
    attempt,
    patch,
    socketsOf,
    piecesFor,
    stepsOf,
    onSteps: stepsHook.on,
    areStepsComing: () => stepsComing > 0,
    part,
    tagsOf,
    shapes,
    solid: shapes.solid,
  }
})

const pictureFrom = async (blob: Blob): Promise<Picture> => ({
  type: blob.type as PictureType,
  bytes: new Uint8Array(await blob.arrayBuffer()),
})
