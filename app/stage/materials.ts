import type { Material as ThreeMaterial } from 'three'
import { Color, DoubleSide, MeshBasicMaterial, MeshStandardMaterial } from 'three'
import type { Material } from '~~/core/mesh/mesh'
import type { Look } from './view'

/** Materials for each distinct finish, shared by all parts that use it; one for each way a pane may look. */
export class MaterialCache {
  private readonly made = new Map<string, MeshStandardMaterial>()
  private readonly looks = new WeakMap<ThreeMaterial, Record<'wire' | 'clear', ThreeMaterial>>()
  private readonly all: ThreeMaterial[] = []

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
        transparent: material.opacity !== undefined,
        opacity: material.opacity ?? 1,
        depthWrite: material.opacity === undefined,
      })
      this.made.set(key, found)
      this.all.push(found)
    }
    return found
  }

  /** The same finish for a pane's look; lit and even differ in their lights only. */
  forLook(material: ThreeMaterial, look: Look): ThreeMaterial {
    if (look === 'lit' || look === 'even' || !(material instanceof MeshStandardMaterial)) return material
    let found = this.looks.get(material)
    if (!found) {
      const { color } = material
      found = {
        wire: new MeshBasicMaterial({ color, wireframe: true }),
        clear: new MeshBasicMaterial({ color, transparent: true, opacity: 0.32, depthWrite: false, side: DoubleSide }),
      }
      this.looks.set(material, found)
      this.all.push(found.wire, found.clear)
    }
    return found[look]
  }

  /** What lamps give off by themselves, weak by day and strong by night. */
  setGlow(strength: number): void {
    for (const material of this.made.values()) material.emissiveIntensity = strength
  }

  dispose(): void {
    for (const material of this.all) material.dispose()
  }
}
