import { Color, DoubleSide, MeshStandardMaterial } from 'three'
import type { Material } from '~~/core/geometry/mesh'

/** One three material for each distinct finish, shared by all parts that use it. */
export class MaterialCache {
  private readonly made = new Map<string, MeshStandardMaterial>()

  get(material: Material): MeshStandardMaterial {
    const key = JSON.stringify(material)
    let found = this.made.get(key)
    if (!found) {
      found = new MeshStandardMaterial({
        name: material.name,
        color: new Color(...material.baseColor),
        roughness: material.roughness,
        metalness: material.metallic,
        emissive: new Color(...material.emissive),
        shadowSide: DoubleSide,
      })
      this.made.set(key, found)
    }
    return found
  }

  /** What lamps give off by themselves, from 0 by day to 1 by night. */
  setGlow(strength: number): void {
    for (const material of this.made.values()) material.emissiveIntensity = strength
  }

  dispose(): void {
    for (const material of this.made.values()) material.dispose()
  }
}
