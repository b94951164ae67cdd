import type { ShaderMaterial, WebGLRenderer } from 'three'
import { Color, Scene, WebGLRenderTarget } from 'three'
import { FullScreenQuad } from 'three/examples/jsm/postprocessing/Pass.js'
import type { PartBatches } from './batches'
import type { CopyBatches } from './copy-batches'
import type { ScenePicture } from './scene-picture'
import type { Rect, View } from './view'

/** Of more things it is not looked for where on the screen they are. */
const FEW_OUTLINED = 200
/** Of the ratio by which lines are as thick as they are meant. */
const THINNEST = 0.65
/** Pixels of an outline around what is outlined. */
const MARGIN = 8

/**
 * Draws things into a mask, each in a colour of its own, and the mask's edges onto the picture; nearer things do not
 * cover them.
 */
export class EdgeMask {
  private readonly scene = new Scene()
  private readonly target = new WebGLRenderTarget(1, 1)
  private readonly quad: FullScreenQuad
  private readonly parts = new Set<PartBatches>()
  private readonly copies = new Set<CopyBatches>()

  /** @param edges has the uniforms `mask`, `texel` and `ratio` */
  constructor(private readonly edges: ShaderMaterial) {
    this.quad = new FullScreenQuad(edges)
    this.scene.background = new Color(0)
  }

  add(parts: PartBatches, copies: CopyBatches): void {
    this.parts.add(parts)
    this.copies.add(copies)
    this.scene.add(parts.object, copies.object)
  }

  /** Draws into the pane whose viewport is set: on the canvas, or in a coarser picture of it, which is quicker. */
  draw(
    renderer: WebGLRenderer,
    view: View,
    canvasHeight: number,
    coarse: { picture: ScenePicture; ratio: number } | null = null,
  ): void {
    const { camera, rect } = view
    if ([...this.parts, ...this.copies].every(batches => batches.isEmpty)) return
    const ratio = coarse?.ratio ?? renderer.getPixelRatio()
    const [width, height] = [Math.max(1, Math.round(rect.width * ratio)), Math.max(1, Math.round(rect.height * ratio))]
    this.target.setSize(width, height)
    this.target.viewport.set(0, 0, width, height)
    renderer.setRenderTarget(this.target)
    renderer.clear()
    renderer.render(this.scene, camera)
    renderer.setRenderTarget(null)
    // Looking for edges takes a while for each pixel: only those around what is outlined are looked at. The mask is
    // whole: cut off somewhere, it would have an edge there.
    const around = this.boxOnScreen(view)
    const { uniforms } = this.edges
    uniforms.mask!.value = this.target.texture
    uniforms.texel!.value.set(1 / width, 1 / height)
    // A line thinner than a pixel would not be seen.
    uniforms.ratio!.value = Math.max(ratio, THINNEST)
    if (coarse) {
      coarse.picture.cut(around, ratio, canvasHeight, renderer)
      this.quad.render(renderer)
      coarse.picture.cut(rect, ratio, canvasHeight, renderer)
      return
    }
    renderer.setScissor(around.x, canvasHeight - around.y - around.height, around.width, around.height)
    this.quad.render(renderer)
    renderer.setScissor(rect.x, canvasHeight - rect.y - rect.height, rect.width, rect.height)
  }

  /** The part of a pane that outlines can be in; all of it if there are many. */
  private boxOnScreen(view: View): Rect {
    const { rect } = view
    const count = [...this.parts].reduce((sum, batches) => sum + batches.size, 0)
    if (count > FEW_OUTLINED || [...this.copies].some(batches => !batches.isEmpty)) return rect
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    let isNear = false
    for (const batches of this.parts) {
      batches.eachSphere(({ center, radius }) => {
        const at = view.project(center)
        isNear ||= !at || (view.kind === 'walkaround' && center.distanceTo(view.eye) < radius * 2)
        if (!at) return
        const pixels = (radius / view.metresPerPixel(center)) * 1.25 + MARGIN
        left = Math.min(left, at.x - pixels)
        right = Math.max(right, at.x + pixels)
        top = Math.min(top, at.y - pixels)
        bottom = Math.max(bottom, at.y + pixels)
      })
    }
    // Seen from within, it may be anywhere.
    if (isNear) return rect
    const [x, y] = [Math.max(rect.x, Math.floor(left)), Math.max(rect.y, Math.floor(top))]
    return {
      x,
      y,
      width: Math.max(0, Math.min(rect.x + rect.width, Math.ceil(right)) - x),
      height: Math.max(0, Math.min(rect.y + rect.height, Math.ceil(bottom)) - y),
    }
  }

  dispose(): void {
    this.target.dispose()
    this.quad.dispose()
    this.edges.dispose()
    for (const batches of this.parts) batches.dispose()
    for (const batches of this.copies) batches.clear()
  }
}
