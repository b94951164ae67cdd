import type { Light, Matrix4, Object3D } from 'three'
import { DirectionalLight, Group, PointLight, SpotLight, Vector3 } from 'three'
import type { Placement } from '~~/core/level/schema'

type OwnLight = Extract<Placement['own'], { light: string }>

export function isLight(own: Placement['own']): own is OwnLight {
  return 'light' in own
}

/** Every light shades every pixel; more than this many would make drawing slow. */
const MOST = 8

/** Makes the level's own lights shine, without shadows of their own. */
export class LevelLights {
  readonly object: Object3D = new Group()
  private readonly lights = new Map<string, { light: Light, own: OwnLight }>()

  /** Whether the level brings a sun, so that the working one is not needed. */
  get hasSun(): boolean {
    return [...this.lights.values()].some(({ own }) => own.light === 'sun')
  }

  set(id: string, own: OwnLight, matrix: Matrix4): void {
    let entry = this.lights.get(id)
    if (entry && entry.own.light !== own.light) {
      this.remove(id)
      entry = undefined
    }
    if (!entry) {
      if (this.lights.size >= MOST) return
      entry = { light: makeLight(own), own }
      this.lights.set(id, entry)
      this.object.add(entry.light)
    }
    const { light } = entry
    entry.own = own
    light.color.set(own.color)
    light.position.setFromMatrixPosition(matrix)
    if (light instanceof PointLight || light instanceof SpotLight) light.distance = own.range
    // Lights shine along -Z (glTF's KHR_lights_punctual).
    if (light instanceof SpotLight || light instanceof DirectionalLight) {
      light.target.position.copy(light.position).add(new Vector3(0, 0, -1).transformDirection(matrix))
      light.target.updateMatrixWorld()
    }
  }

  remove(id: string): void {
    const entry = this.lights.get(id)
    if (!entry) return
    this.object.remove(entry.light)
    entry.light.dispose()
    this.lights.delete(id)
  }

  /** Lets them shine, or not while a pane is lit evenly. */
  shine(on: boolean): void {
    for (const { light, own } of this.lights.values()) light.intensity = on ? own.intensity : 0
  }

  dispose(): void {
    for (const id of [...this.lights.keys()]) this.remove(id)
  }
}

function makeLight({ light }: OwnLight): Light {
  if (light === 'sun') return new DirectionalLight()
  return light === 'point' ? new PointLight() : new SpotLight(undefined, undefined, undefined, Math.PI / 5, 0.4)
}
