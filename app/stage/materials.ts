import type { Material as ThreeMaterial, Wrapping } from 'three'
import {
  CanvasTexture,
  ClampToEdgeWrapping,
  Color,
  DoubleSide,
  FrontSide,
  LinearFilter,
  LinearMipmapLinearFilter,
  LinearMipmapNearestFilter,
  MeshBasicMaterial,
  MeshLambertMaterial,
  MeshStandardMaterial,
  MirroredRepeatWrapping,
  NearestFilter,
  NearestMipmapLinearFilter,
  NearestMipmapNearestFilter,
  NoColorSpace,
  RepeatWrapping,
  SRGBColorSpace,
  Texture as ThreeTexture,
} from 'three'
import type { Material } from '~~/core/mesh/mesh'
import type { Texture, TextureSlot } from '~~/core/mesh/texture'
import { MISSING } from '~~/core/mesh/missing-mesh'
import { TEXTURE_SLOTS, WRAPPING } from '~~/core/mesh/texture'
import type { Look } from './view'
import { orNothing } from '~/errors/or-nothing'

/** Loads a texture's picture by its name. */
export type LoadPicture = (picture: string) => Promise<ImageBitmap>

/** Where three keeps the texture of each slot. */
const MAPS: Record<
  TextureSlot,
  readonly ('map' | 'metalnessMap' | 'roughnessMap' | 'normalMap' | 'aoMap' | 'emissiveMap')[]
> = {
  baseColor: ['map'],
  metallicRoughness: ['metalnessMap', 'roughnessMap'],
  normal: ['normalMap'],
  occlusion: ['aoMap'],
  emissive: ['emissiveMap'],
}
const COLORED: ReadonlySet<TextureSlot> = new Set(['baseColor', 'emissive'])
const WRAPPINGS: Record<number, Wrapping> = {
  [WRAPPING.clamp]: ClampToEdgeWrapping,
  [WRAPPING.mirror]: MirroredRepeatWrapping,
  [WRAPPING.repeat]: RepeatWrapping,
}
/** What everything is made of where only the light is looked at. */
const CLAY = new Color(0.6, 0.6, 0.58)
/** Linear. */
const PALE = new Color(0.62, 0.6, 0.55)
/** By glTF's numbers (glTF 2.0, 5.26). */
const FILTERS = {
  9728: NearestFilter,
  9729: LinearFilter,
  9984: NearestMipmapNearestFilter,
  9985: LinearMipmapNearestFilter,
  9986: NearestMipmapLinearFilter,
  9987: LinearMipmapLinearFilter,
} as const

/** Materials for each distinct finish, shared by all parts that use it; one for each way a pane may look. */
export class MaterialCache {
  private readonly made = new Map<string, MeshStandardMaterial>()
  private readonly looks = new WeakMap<ThreeMaterial, Record<'light' | 'wire' | 'clear', ThreeMaterial>>()
  private readonly pale = new WeakMap<ThreeMaterial, MeshLambertMaterial>()
  private readonly all: ThreeMaterial[] = []
  private readonly textures = new Map<string, ThreeTexture>()
  private glow = 1

  /**
   * @param onLoaded is called when a picture has come that something drawn shows
   * @param dressed lets lamps shine on a material
   */
  constructor(
    private readonly loadPicture: LoadPicture,
    private readonly onLoaded: () => void,
    private readonly dressed: (material: MeshStandardMaterial) => void = () => {},
  ) {}

  /** @param hasColors whether the vertices have colours of their own */
  get(material: Material, hasColors = false): MeshStandardMaterial {
    const key = `${hasColors}${JSON.stringify(material)}`
    let found = this.made.get(key)
    if (!found) {
      const { opacity, cutoff, textures = {} } = material
      const isBlended = opacity !== undefined && cutoff === undefined
      found = new MeshStandardMaterial({
        name: material.name,
        color: new Color(...material.baseColor),
        vertexColors: hasColors,
        roughness: material.roughness,
        metalness: material.metallic,
        emissive: new Color(...material.emissive),
        emissiveIntensity: this.glow,
        side: material.doubleSided ? DoubleSide : FrontSide,
        shadowSide: DoubleSide,
        transparent: isBlended,
        opacity: opacity ?? 1,
        depthWrite: !isBlended,
        alphaTest: cutoff ?? 0,
      })
      if (textures.normal?.strength !== undefined) found.normalScale.setScalar(textures.normal.strength)
      if (textures.occlusion?.strength !== undefined) found.aoMapIntensity = textures.occlusion.strength
      if (material.name.startsWith(MISSING)) found.map = hatched(material.name)
      for (const slot of TEXTURE_SLOTS) if (textures[slot]) void this.show(found, slot, textures[slot])
      this.dressed(found)
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
      const clay = new MeshStandardMaterial({
        color: CLAY,
        roughness: 0.95,
        side: material.side,
        shadowSide: DoubleSide,
        emissive: material.emissive,
        emissiveIntensity: this.glow,
      })
      this.dressed(clay)
      found = {
        light: clay,
        wire: new MeshBasicMaterial({ color, wireframe: true }),
        clear: new MeshBasicMaterial({ color, transparent: true, opacity: 0.32, depthWrite: false, side: DoubleSide }),
      }
      this.looks.set(material, found)
      this.all.push(found.light, found.wire, found.clear)
    }
    return found[look]
  }

  /** The same for what is only around what is worked on: pale, and seen through. */
  forBackdrop(material: ThreeMaterial): ThreeMaterial {
    if (!(material instanceof MeshStandardMaterial)) return material
    let found = this.pale.get(material)
    if (!found) {
      const color = material.color.clone().lerp(PALE, 0.6)
      this.pale.set(
        material,
        (found = new MeshLambertMaterial({ color, transparent: true, opacity: 0.42, side: material.side })),
      )
      this.all.push(found)
    }
    return found
  }

  /** What lamps give off by themselves, weak by day and strong by night. */
  setGlow(strength: number): void {
    this.glow = strength
    for (const material of this.all) if (material instanceof MeshStandardMaterial) material.emissiveIntensity = strength
  }

  /** Bytes that the pictures take where they are drawn, with the smaller ones that are made of each (a third more). */
  textureBytes(): number {
    const shown = new Set([...this.textures.values()].map(({ image }) => image as { width: number; height: number }))
    return [...shown].reduce((sum, { width, height }) => sum + (width * height * 4 * 4) / 3, 0)
  }

  dispose(): void {
    for (const material of this.all) material.dispose()
    for (const texture of this.textures.values()) texture.dispose()
  }

  /** Until its picture has come, the material is drawn without it; for good if it cannot be had. */
  private async show(material: MeshStandardMaterial, slot: TextureSlot, used: Texture): Promise<void> {
    const picture = await this.loadPicture(used.picture).catch(orNothing)
    if (!picture) return
    const texture = this.textureOf(used, picture, COLORED.has(slot))
    for (const map of MAPS[slot]) material[map] = texture
    material.needsUpdate = true
    this.onLoaded()
  }

  private textureOf(used: Texture, picture: ImageBitmap, isColored: boolean): ThreeTexture {
    const key = `${isColored}${JSON.stringify(used)}`
    let texture = this.textures.get(key)
    if (!texture) {
      const { sampler, transform } = used
      texture = new ThreeTexture(picture)
      // glTF counts V downwards, as pictures lie in memory.
      texture.flipY = false
      texture.channel = used.texCoord
      texture.colorSpace = isColored ? SRGBColorSpace : NoColorSpace
      texture.wrapS = WRAPPINGS[sampler.wrapS] ?? RepeatWrapping
      texture.wrapT = WRAPPINGS[sampler.wrapT] ?? RepeatWrapping
      texture.minFilter = FILTERS[sampler.minFilter as keyof typeof FILTERS] ?? LinearMipmapLinearFilter
      texture.magFilter = sampler.magFilter === 9728 ? NearestFilter : LinearFilter
      if (transform) {
        texture.offset.set(...transform.offset)
        texture.rotation = transform.rotation
        texture.repeat.set(...transform.scale)
      }
      texture.needsUpdate = true
      this.textures.set(key, texture)
    }
    return texture
  }
}

/** Hatching with a name on it. */
function hatched(name: string): CanvasTexture {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 256
  const context = canvas.getContext('2d')!
  context.fillStyle = '#fff'
  context.fillRect(0, 0, 256, 256)
  context.strokeStyle = '#222'
  context.lineWidth = 6
  for (let x = -256; x < 256; x += 32) {
    context.beginPath()
    context.moveTo(x, 256)
    context.lineTo(x + 256, 0)
    context.stroke()
  }
  context.fillStyle = '#fff'
  context.fillRect(0, 104, 256, 48)
  context.fillStyle = '#222'
  context.font = '600 30px "Barlow Condensed"'
  context.textAlign = 'center'
  context.textBaseline = 'middle'
  context.fillText(name, 128, 128, 244)
  const texture = new CanvasTexture(canvas)
  texture.colorSpace = SRGBColorSpace
  return texture
}
