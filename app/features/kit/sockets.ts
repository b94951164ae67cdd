import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { Matrix3, Vector3 } from 'three'
import type { Socket } from '~~/core/level/part'
import type { Vec3 } from '~~/core/math/vectors'
import { asName } from '~~/core/units/text'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import { pointToMicrometre } from '~~/core/math/micrometre'

/** Putting sockets on a part, by clicking on one of its placements. */
export const useSockets = defineStore('sockets', () => {
  const level = useLevel()
  const kit = useKit()
  const modes = useModes()
  /** The part that is asked about; null while none is. */
  const partId = ref<string | null>(null)
  const isShown = ref(false)
  const sockets = shallowRef<readonly Socket[]>([])
  watch(partId, id => {
    sockets.value = id === null ? [] : (kit.part(id)?.sockets ?? [])
    isShown.value = id !== null
  })

  const part = computed(() => (partId.value === null ? undefined : kit.part(partId.value)))
  /** Kinds that other parts have. */
  const kinds = computed(() => [...new Set(kit.parts.flatMap(entry => entry.sockets.map(({ kind }) => kind)))].sort())

  function close(): void {
    partId.value = null
  }

  /** Lets a corner or a middle of the part be clicked; the end points away from the face there. */
  function clickPoint(): void {
    isShown.value = false
    modes.touch(
      'Click where the end is: a corner, or the middle of an edge or a face',
      'point',
      ({ id, point, normal }) => {
        const placement = id === null ? undefined : level.view.get(id)
        if (id === null || placement?.partId !== partId.value) {
          level.notify('That is another thing', ['Click on one that shows the part.'])
          return false
        }
        const toOwn = level.view.worldMatrix(id).clone().invert()
        const direction = alongAxis(
          (normal ?? new Vector3(1, 0, 0))
            .clone()
            .applyMatrix3(new Matrix3().setFromMatrix4(level.view.worldMatrix(id)).transpose())
            .normalize(),
        )
        add({ at: pointToMicrometre(point.clone().applyMatrix4(toOwn)), direction })
        isShown.value = true
        return true
      },
    )
  }

  function add({ at, direction }: Pick<Socket, 'at' | 'direction'>): void {
    const kind = sockets.value.at(-1)?.kind ?? asName(part.value?.name.toLowerCase() ?? 'end')
    sockets.value = [
      ...sockets.value,
      { name: `end ${sockets.value.length + 1}`, kind, at, direction, up: upFor(direction) },
    ]
  }

  function change(index: number, changed: Partial<Socket>): void {
    sockets.value = sockets.value.map((socket, i) =>
      i === index ? { ...socket, ...changed, ...(changed.direction ? { up: upFor(changed.direction) } : {}) } : socket,
    )
  }

  function remove(index: number): void {
    sockets.value = sockets.value.filter((_, i) => i !== index)
  }

  /** @returns what is wrong; null if it is saved */
  async function save(): Promise<string | null> {
    const id = partId.value
    if (id === null) return null
    const wrong = await kit.attempt(() => kit.patch(id, { sockets: [...sockets.value] }))
    if (wrong === null) close()
    return wrong
  }

  return { partId, part, isShown, sockets, kinds, close, clickPoint, change, remove, save }
})

/** A direction along the nearest axis, if it is near to one. */
function alongAxis({ x, y, z }: Vector3): Vec3 {
  const values = [x, y, z]
  const most = values.findIndex(value => Math.abs(value) > 0.99)
  return values.map((value, axis) => (most < 0 ? value : axis === most ? Math.sign(value) : 0)) as Vec3
}

/** Upwards, or to the front where the end itself points up or down. */
function upFor(direction: Vec3): Vec3 {
  const along = new Vector3(...direction)
  const up = Math.abs(along.y) > 0.9 ? new Vector3(0, 0, 1) : new Vector3(0, 1, 0)
  return up.addScaledVector(along, -up.dot(along)).normalize().toArray()
}
