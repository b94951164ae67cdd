import { Color } from 'three'
import type { CameraOwn } from '../level/kinds/camera'
import type { LightOwn } from '../level/kinds/light'

/** A camera in the terms of glTF 2.0, 5.12 to 5.14. */
export function gltfCamera({ fieldOfView, aspect, near, far }: CameraOwn): object {
  return {
    type: 'perspective',
    perspective: { yfov: (fieldOfView * Math.PI) / 180, aspectRatio: aspect, znear: near, zfar: far },
  }
}

/**
 * A light in the terms of KHR_lights_punctual, which has no areas: one of them becomes a spot that shines to its whole
 * front, as bright along its axis. One that is off has an intensity of 0.
 *
 * @param strength by which it is multiplied
 */
export function gltfLight(own: LightOwn, strength = 1): object {
  const { r, g, b } = new Color(own.color)
  const candela = own.light === 'area' ? own.intensity * own.width * own.height : own.intensity
  const spot =
    own.light === 'area'
      ? { innerConeAngle: 0, outerConeAngle: Math.PI / 2 }
      : { innerConeAngle: radians(own.innerCone), outerConeAngle: radians(own.outerCone) }
  return {
    type: own.light === 'sun' ? 'directional' : own.light === 'point' ? 'point' : 'spot',
    color: [r, g, b],
    intensity: own.on ? candela * strength : 0,
    ...(own.range > 0 && own.light !== 'sun' ? { range: own.range } : {}),
    ...(own.light === 'spot' || own.light === 'area' ? { spot } : {}),
  }
}

const radians = (degrees: number) => (degrees * Math.PI) / 180
