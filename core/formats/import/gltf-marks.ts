import type { Node as GltfNode } from '@gltf-transform/core'
import type { Light } from '@gltf-transform/extensions'
import { Color } from 'three'
import { cameraOwn, lightOwn } from '../../level/create'
import type { CameraOwn } from '../../level/kinds/camera'
import { camera } from '../../level/kinds/camera'
import type { LightOwn } from '../../level/kinds/light'
import { light } from '../../level/kinds/light'

const degrees = (radians: number) => (radians * 180) / Math.PI

/** The camera on a node; null if there is none, or one that is none here. */
export function cameraOf(node: GltfNode): CameraOwn | null {
  const found = node.getCamera()
  if (!found || found.getType() !== 'perspective') return null
  const near = Math.max(found.getZNear(), 0.001)
  const own = cameraOwn({
    fieldOfView: degrees(found.getYFov()),
    aspect: found.getAspectRatio() ?? 16 / 9,
    near,
    far: Math.max(finite(found.getZFar(), 1000), near + 0.001),
  })
  return camera.own.safeParse(own).data ?? null
}

/** The light on a node (KHR_lights_punctual); null if there is none, or one that is none here. */
export function lightOf(node: GltfNode): LightOwn | null {
  const found = node.getExtension<Light>('KHR_lights_punctual')
  if (!found) return null
  const type = found.getType()
  const [r, g, b] = found.getColor()
  const outerCone = Math.min(Math.max(degrees(found.getOuterConeAngle()), 0.5), 90)
  const intensity = found.getIntensity()
  const own = lightOwn({
    light: type === 'directional' ? 'sun' : type === 'spot' ? 'spot' : 'point',
    color: `#${new Color(r, g, b).getHexString()}`,
    intensity,
    on: intensity > 0,
    range: finite(found.getRange(), 0),
    shadow: type === 'directional',
    ...(type === 'spot'
      ? { outerCone, innerCone: Math.min(degrees(found.getInnerConeAngle()), outerCone - 0.01, 89) }
      : {}),
  })
  return light.own.safeParse(own).data ?? null
}

const finite = (value: number | null, otherwise: number) =>
  value !== null && Number.isFinite(value) && value > 0 ? value : otherwise
