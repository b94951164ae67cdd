import type { Matrix4, WebGLRenderer } from 'three'
import {
  AdditiveBlending,
  Color,
  DoubleSide,
  MeshBasicMaterial,
  Scene,
  ShaderMaterial,
  Vector2,
  WebGLRenderTarget,
} from 'three'
import { FullScreenQuad } from 'three/examples/jsm/postprocessing/Pass.js'
import type { Board } from './board'
import type { DrawableOf } from './batches'
import type { ShapeCopies } from '~~/core/scene/expand'
import { PartBatches } from './batches'
import { CopyBatches } from './copy-batches'
import type { ScenePicture } from './scene-picture'
import type { Rect, View } from './view'
import { WHOLE_PICTURE } from './whole-picture'

/** Copies of one shape in one arrangement; more would cost more to outline than to draw. */
const MOST_OUTLINED = 10_000
/** Of more things it is not looked for where on the screen they are. */
const FEW_OUTLINED = 200
/** Of the ratio by which lines are as thick as they are meant. */
const THINNEST = 0.65
/** Pixels of an outline around what is outlined. */
const MARGIN = 8

export type OutlineKind = 'picked' | 'last' | 'hovered'

/**
 * Outlines on the screen: picked, last picked (thicker) and hovered (thin, dashed). What is outlined is drawn into a
 * mask, a colour channel for each kind, and the mask's edges onto the picture; nearer things do not cover an outline.
 */
export class Outline {
  private readonly scene = new Scene()
  private readonly target = new WebGLRenderTarget(1, 1)
  private readonly quad = new FullScreenQuad(edgeMaterial())
  private readonly kinds: Record<OutlineKind, PartBatches>
  private readonly copies: Record<OutlineKind, CopyBatches>

  constructor(drawableOf: DrawableOf, boxOf: DrawableOf) {
    const flat = (color: string) => {
      const material = new MeshBasicMaterial({
        color,
        side: DoubleSide,
        depthTest: false,
        toneMapped: false,
        blending: AdditiveBlending,
      })
      return (of: DrawableOf): DrawableOf =>
        (shape, mirrored) =>
          of(shape, mirrored)?.map(item => ({ ...item, material }))
    }
    const [picked, last, hovered] = [flat('#ff0000'), flat('#00ff00'), flat('#0000ff')]
    this.kinds = {
      picked: new PartBatches(picked(drawableOf), false),
      last: new PartBatches(last(drawableOf), false),
      hovered: new PartBatches(hovered(drawableOf), false),
    }
    const copies = (paint: typeof picked) =>
      new CopyBatches(paint(drawableOf), { boxOf: paint(boxOf), most: MOST_OUTLINED })
    this.copies = { picked: copies(picked), last: copies(last), hovered: copies(hovered) }
    for (const batches of [...Object.values(this.kinds), ...Object.values(this.copies)]) this.scene.add(batches.object)
    this.scene.background = new Color(0)
  }

  setBoard(board: Board): void {
    const { uniforms } = this.quad.material as ShaderMaterial
    uniforms.picked!.value.set(board.colors.picked)
    uniforms.hovered!.value.set(board.colors.primary)
  }

  set(kind: OutlineKind, id: string, shape: string, matrix: Matrix4): void {
    this.kinds[kind].set(id, shape, matrix)
  }

  setCopies(kind: OutlineKind, id: string, copies: readonly ShapeCopies[], matrix: Matrix4): void {
    this.copies[kind].set(id, copies, matrix)
  }

  clear(kind: OutlineKind): void {
    this.kinds[kind].clear()
    this.copies[kind].clear()
  }

  /** Drops what is kept for shapes that are not outlined any more. */
  prune(): void {
    for (const batches of Object.values(this.kinds)) batches.prune()
  }

  /** Draws into the pane whose viewport is set: on the canvas, or in a coarser picture of it, which is quicker. */
  draw(
    renderer: WebGLRenderer,
    view: View,
    canvasHeight: number,
    coarse: { picture: ScenePicture; ratio: number } | null = null,
  ): void {
    const { camera, rect } = view
    if ([...Object.values(this.kinds), ...Object.values(this.copies)].every(batches => batches.isEmpty)) return
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
    const { uniforms } = this.quad.material as ShaderMaterial
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
    const count = Object.values(this.kinds).reduce((sum, batches) => sum + batches.size, 0)
    if (count > FEW_OUTLINED || Object.values(this.copies).some(batches => !batches.isEmpty)) return rect
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    let isNear = false
    for (const batches of Object.values(this.kinds)) {
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
    for (const batches of Object.values(this.kinds)) batches.dispose()
    for (const batches of Object.values(this.copies)) batches.clear()
  }
}

function edgeMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    transparent: true,
    depthTest: false,
    depthWrite: false,
    uniforms: {
      mask: { value: null },
      texel: { value: new Vector2() },
      ratio: { value: 1 },
      picked: { value: new Color() },
      hovered: { value: new Color() },
    },
    vertexShader: WHOLE_PICTURE,
    fragmentShader: /* glsl */ `
      uniform sampler2D mask;
      uniform vec2 texel;
      uniform float ratio;
      uniform vec3 picked;
      uniform vec3 hovered;
      varying vec2 at;
      vec3 around(float radius) {
        vec3 most = vec3(0.0);
        for (int i = 0; i < 12; i++) {
          float angle = float(i) * 0.5236;
          most = max(most, texture2D(mask, at + vec2(cos(angle), sin(angle)) * texel * radius * ratio).rgb);
        }
        return most;
      }
      void main() {
        vec3 inside = texture2D(mask, at).rgb;
        float hover = around(1.4).b * (1.0 - inside.b) * step(mod(gl_FragCoord.x + gl_FragCoord.y, 9.0 * ratio), 5.0 * ratio);
        float one = around(1.6).r * (1.0 - inside.r);
        float last = around(2.6).g * (1.0 - inside.g);
        float strength = max(max(one, last), hover);
        if (strength < 0.05) discard;
        gl_FragColor = vec4(max(one, last) > hover ? picked : hovered, strength);
        #include <colorspace_fragment>
      }`,
  })
}
