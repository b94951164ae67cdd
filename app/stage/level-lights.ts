import type { Object3D } from 'three'
import { Color, DirectionalLight, Group, PointLight, SpotLight, Vector3 } from 'three'
import type { LightOwn } from '~~/core/level/kinds/light'
import type { SkyFields } from '~~/core/level/sky'
import { exposureFactor } from '~~/core/level/sky'
import type { Lamp } from '~~/core/scene/lamp-cells'
import type { Shining } from '~~/core/scene/level-lamps'
import type { LampGrid } from './lamp-grid'
import type { Look, View } from './view'

/** Suns that shine besides the first, without shadows. */
const MORE_SUNS = 2
/** Lights besides the sun that cast shadows: the nearest of each kind. */
const SHADOWED = { spot: 2, point: 1 } as const
/** Of what is shown as full, the least that is worth a lamp without an end of its own. */
const LEAST = 0.004

/** What shines under the level's sky in force. */
type Lit = { suns: Shining[]; lamps: Shining[] }

/** Makes the level's own lights shine: suns, lamps by their grid, and the nearest lamps with shadows. */
export class LevelLights {
  readonly object: Object3D = new Group()
  private readonly shining = new Map<string, readonly Shining[]>()
  private sky: SkyFields['of'] = 'day'
  private exposure = 1
  private isOld = true
  private lit: Lit = { suns: [], lamps: [] }
  private readonly moreSuns = Array.from({ length: MORE_SUNS }, () => new DirectionalLight())
  private readonly spots = Array.from({ length: SHADOWED.spot }, () => shadowed(new SpotLight()))
  private readonly points = Array.from({ length: SHADOWED.point }, () => shadowed(new PointLight()))
  /** Which lamps have a light of their own, with shadows; null while that has to be chosen anew. */
  private own: readonly Shining[] | null = null

  constructor(private readonly grid: LampGrid) {
    for (const light of [...this.moreSuns, ...this.spots]) this.object.add(light, light.target)
    this.object.add(...this.points)
    for (const light of [...this.moreSuns, ...this.spots, ...this.points]) light.visible = false
  }

  set(id: string, all: readonly Shining[]): void {
    if (all.length > 0) this.shining.set(id, all)
    else this.shining.delete(id)
    this.isOld = true
  }

  remove(id: string): void {
    if (this.shining.delete(id)) this.isOld = true
  }

  /** Under which sky, and how bright it is shown. */
  setSky({ of, exposure }: Pick<SkyFields, 'of' | 'exposure'>): void {
    if (this.sky === of && this.exposure === exposure) return
    this.sky = of
    this.exposure = exposure
    this.isOld = true
  }

  /** The first sun that shines, for the light that covers the level with shadow. */
  sun(): Shining | null {
    return this.current().suns[0] ?? null
  }

  /** Whether the level is lit by itself: by day by a sun, by night by anything. */
  get isLit(): boolean {
    const { suns, lamps } = this.current()
    return suns.length > 0 || (this.sky === 'night' && lamps.length > 0)
  }

  /** How many lights shine, suns and lamps. */
  get count(): number {
    const { suns, lamps } = this.current()
    return suns.length + lamps.length
  }

  /** Fits them to a view that is drawn next. @returns whether other lamps cast shadows than before */
  update(view: View, look: Look): boolean {
    const on = look !== 'even'
    const { suns, lamps } = this.current()
    for (const [i, light] of this.moreSuns.entries()) {
      const sun = suns[i + 1]
      light.visible = on && sun !== undefined
      if (sun) this.aim(light, sun)
    }
    const changed = this.chooseShadowed(lamps, view.target)
    for (const light of [...this.spots, ...this.points]) light.intensity = on ? (light.userData.intensity as number) : 0
    this.grid.update(view.camera.matrixWorld, on)
    return changed
  }

  dispose(): void {
    for (const light of [...this.moreSuns, ...this.spots, ...this.points]) light.dispose()
    this.grid.dispose()
  }

  private current(): Lit {
    if (!this.isOld) return this.lit
    const all = [...this.shining.values()]
      .flat()
      .filter(({ light }) => light.on && light.intensity > 0 && (light.when === 'always' || light.when === this.sky))
    this.lit = {
      suns: all.filter(({ light }) => light.light === 'sun'),
      lamps: all.filter(({ light }) => light.light !== 'sun'),
    }
    this.isOld = false
    this.own = null
    return this.lit
  }

  private fillGrid(own: ReadonlySet<Shining>): void {
    this.grid.set(this.lit.lamps.filter(each => !own.has(each)).map(each => this.lampOf(each)))
  }

  private lampOf({ light, matrix }: Shining): Lamp {
    const area = light.light === 'area' ? light.width * light.height : 0
    const color = this.colorOf(light, area)
    const most = Math.max(color.r, color.g, color.b)
    const cosines =
      light.light === 'spot'
        ? {
            cosInner: Math.cos((light.innerCone * Math.PI) / 180),
            cosOuter: Math.cos((light.outerCone * Math.PI) / 180),
          }
        : { cosInner: -1.5, cosOuter: -2 }
    return {
      at: new Vector3().setFromMatrixPosition(matrix),
      range: light.range || Math.min(Math.sqrt(most / LEAST), 1000),
      color,
      area: area / Math.PI,
      ...cosines,
      direction: new Vector3(0, 0, -1).transformDirection(matrix),
    }
  }

  private colorOf(light: LightOwn, area = 0): Color {
    return new Color(light.color).multiplyScalar(
      light.intensity * exposureFactor(this.exposure) * (light.light === 'area' ? area : 1),
    )
  }

  private aim(light: DirectionalLight | SpotLight, { light: own, matrix }: Shining): void {
    light.color.set(own.color)
    light.intensity = own.intensity * exposureFactor(this.exposure)
    const way = new Vector3(0, 0, -1).transformDirection(matrix)
    light.position.setFromMatrixPosition(matrix)
    light.target.position.copy(light.position).add(way)
    light.target.updateMatrixWorld()
  }

  /** Gives the lamps that are nearest to what is looked at a light of their own each. */
  private chooseShadowed(lamps: readonly Shining[], focus: Vector3): boolean {
    const nearest = (kind: 'spot' | 'point') =>
      lamps
        .filter(({ light }) => light.light === kind && light.shadow)
        .map(each => ({ each, away: new Vector3().setFromMatrixPosition(each.matrix).distanceTo(focus) }))
        .sort((a, b) => a.away - b.away)
        .slice(0, SHADOWED[kind])
        .map(({ each }) => each)
    const [spots, points] = [nearest('spot'), nearest('point')]
    const chosen = [...spots, ...points]
    const { own } = this
    if (own && chosen.length === own.length && chosen.every(each => own.includes(each))) return false
    this.own = chosen
    this.fillGrid(new Set(chosen))
    for (const [i, light] of this.spots.entries()) {
      const spot = spots[i]
      light.visible = spot !== undefined
      if (!spot) continue
      this.aim(light, spot)
      Object.assign(light, {
        angle: (spot.light.outerCone * Math.PI) / 180,
        penumbra: 1 - spot.light.innerCone / spot.light.outerCone,
        distance: spot.light.range,
      })
      light.userData.intensity = light.intensity
      light.shadow.camera.far = spot.light.range || 100
    }
    for (const [i, light] of this.points.entries()) {
      const point = points[i]
      light.visible = point !== undefined
      if (!point) continue
      light.color.set(point.light.color)
      light.userData.intensity = point.light.intensity * exposureFactor(this.exposure)
      light.distance = point.light.range
      light.position.setFromMatrixPosition(point.matrix)
      light.shadow.camera.far = point.light.range || 100
    }
    return chosen.length + (own?.length ?? 0) > 0
  }
}

function shadowed<L extends SpotLight | PointLight>(light: L): L {
  light.castShadow = true
  light.shadow.mapSize.set(512, 512)
  light.shadow.radius = 4
  light.shadow.normalBias = 0.02
  light.shadow.bias = -0.0005
  light.shadow.camera.near = 0.05
  return light
}
