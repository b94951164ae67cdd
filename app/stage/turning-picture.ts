import {
  Box3,
  Color,
  DirectionalLight,
  Group,
  HemisphereLight,
  Mesh,
  PerspectiveCamera,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderer,
} from 'three'
import type { Mesh as PartMesh } from '~~/core/mesh/mesh'
import { Solid } from '~~/core/mesh/solid'
import { palettes } from './palette'
import type { LoadPicture } from './materials'
import { MaterialCache } from './materials'

/** Radians a second that it turns by itself. */
const SPEED = 0.5
const FIELD_OF_VIEW = 30

/** A small picture of something that is not in a level, turning slowly; it can be turned by hand. */
export class TurningPicture {
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly camera = new PerspectiveCamera(FIELD_OF_VIEW, 1, 0.01, 100)
  private readonly turntable = new Group()
  private readonly materials: MaterialCache
  private frame = 0
  private last = 0
  private held = false

  /** @param calm whether it only turns by hand */
  constructor(
    canvas: HTMLCanvasElement,
    loadPicture: LoadPicture,
    private readonly calm: boolean,
  ) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, alpha: true })
    this.materials = new MaterialCache(loadPicture, () => this.draw())
    const sun = new DirectionalLight(new Color(palettes.day.colors.sunlight), 2.6)
    sun.position.set(-2, 4, 3)
    this.scene.add(
      sun,
      new HemisphereLight(palettes.day.colors.skylight, palettes.day.colors.groundlight, 1.7),
      this.turntable,
    )
    canvas.addEventListener('pointerdown', event => {
      this.held = true
      canvas.setPointerCapture(event.pointerId)
    })
    canvas.addEventListener('pointermove', event => {
      if (!this.held) return
      this.turntable.rotation.y += event.movementX * 0.01
      this.draw()
    })
    canvas.addEventListener('pointerup', () => (this.held = false))
  }

  /** Shows parts beside each other. */
  show(parts: readonly PartMesh[]): void {
    this.clear()
    const turned = this.turntable.rotation.y
    this.turntable.rotation.y = 0
    let right = 0
    for (const part of parts) {
      const solid = new Solid(part)
      const group = new Group()
      for (const [i, geometry] of solid.geometries.entries())
        group.add(
          new Mesh(
            geometry,
            this.materials.get(part.primitives[i]!.material, part.primitives[i]!.colors !== undefined),
          ),
        )
      const width = solid.bounds.max.x - solid.bounds.min.x
      group.position.x = right - solid.bounds.min.x
      right += width * 1.15
      this.turntable.add(group)
    }
    const sphere = new Box3().setFromObject(this.turntable).getBoundingSphere(new Sphere())
    for (const child of this.turntable.children) child.position.sub(sphere.center)
    this.turntable.rotation.y = turned
    this.camera.position.copy(
      new Vector3(0, 0.45, 1)
        .normalize()
        .multiplyScalar((sphere.radius / Math.sin((FIELD_OF_VIEW * Math.PI) / 360)) * 1.02),
    )
    this.camera.near = sphere.radius * 0.05
    this.camera.far = sphere.radius * 20
    this.camera.lookAt(0, 0, 0)
    this.draw()
  }

  resize(width: number, height: number): void {
    this.renderer.setPixelRatio(Math.min(globalThis.devicePixelRatio || 1, 2))
    this.renderer.setSize(width, height, false)
    this.camera.aspect = width / height
    this.camera.updateProjectionMatrix()
    this.draw()
  }

  dispose(): void {
    cancelAnimationFrame(this.frame)
    this.clear()
    this.materials.dispose()
    this.renderer.dispose()
    this.renderer.forceContextLoss()
  }

  private draw(): void {
    if (this.frame === 0) this.frame = requestAnimationFrame(time => this.render(time))
  }

  private render(time: number): void {
    this.frame = 0
    const seconds = Math.min((time - this.last) / 1000, 0.1)
    this.last = time
    const turns = !this.calm && !this.held && this.turntable.children.length > 0
    if (turns) this.turntable.rotation.y += seconds * SPEED
    this.renderer.render(this.scene, this.camera)
    if (turns) this.draw()
  }

  private clear(): void {
    this.turntable.traverse(each => {
      if (each instanceof Mesh) each.geometry.dispose()
    })
    this.turntable.clear()
  }
}
