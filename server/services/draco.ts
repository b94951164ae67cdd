/// <reference path="../draco3dgltf.d.ts" />
import type { DracoModule } from '../../core/formats/glb-packing'

// Started only where it is needed: that takes a while.

export async function dracoEncoder(): Promise<DracoModule> {
  const { default: draco } = await import('draco3dgltf')
  return (await draco.createEncoderModule()) as DracoModule
}

/** Undefined for a binary glTF file that does not say it needs it. */
export async function dracoDecoder(glb: Uint8Array): Promise<unknown> {
  const length = glb.length < 20 ? 0 : new DataView(glb.buffer, glb.byteOffset).getUint32(12, true)
  if (
    !Buffer.from(glb.buffer, glb.byteOffset, Math.min(glb.length, 20 + length)).includes('KHR_draco_mesh_compression')
  )
    return undefined
  const { default: draco } = await import('draco3dgltf')
  return draco.createDecoderModule()
}
