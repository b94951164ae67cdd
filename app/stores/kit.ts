import { defineStore } from 'pinia'
import { markRaw, shallowRef } from 'vue'
import { readPartGlb } from '~~/core/formats/part-glb'
import { Solid } from '~~/core/geometry/solid'
import type { Part } from '~~/core/kit/part'
import { api } from '../api/client'
import { takePartPictures } from '../stage/part-pictures'

/** The catalogue and the meshes of its parts, each loaded once. */
export const useKit = defineStore('kit', () => {
  const parts = shallowRef<Part[]>([])
  const pictures = shallowRef<ReadonlyMap<string, string>>(new Map())
  const solids = markRaw(new Map<string, Solid>())
  let loading: Promise<void> | undefined

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
    await Promise.all(listed.map(async part => solids.set(part.id, new Solid(await readPartGlb(await api.mesh(part.meshHash))))))
    parts.value = listed
  }

  /** Takes the parts' pictures, unless they have been taken. */
  async function takePictures(): Promise<void> {
    if (pictures.value.size === 0) pictures.value = await takePartPictures(solids)
  }

  const part = (id: string) => parts.value.find(entry => entry.id === id)
  const solid = (id: string) => solids.get(id)

  return { parts, pictures, load, takePictures, part, solid }
})
