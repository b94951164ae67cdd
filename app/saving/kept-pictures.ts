import { z } from 'zod'
import { DeviceStore } from './device-store'

// Pictures of the kit's parts, by the hash of the mesh that each shows: drawn once on a device, and then there at once.

const pictures = new DeviceStore('handy-grid-pictures', 'parts', z.string().startsWith('data:image/'))
/** Another number when they are drawn otherwise. */
const DRAWN = 1

const keyOf = (meshHash: string) => `${DRAWN}/${meshHash}`

export async function keptPictures(meshHashes: readonly string[]): Promise<Map<string, string>> {
  const found = await Promise.all(meshHashes.map(async hash => [hash, await pictures.get(keyOf(hash))] as const))
  return new Map(found.flatMap(([hash, picture]) => picture ? [[hash, picture] as const] : []))
}

export function keepPicture(meshHash: string, picture: string): Promise<void> {
  return pictures.put(keyOf(meshHash), picture)
}
