import type { WebGLRenderer } from 'three'
import {
  CustomBlending,
  LinearFilter,
  OneFactor,
  OneMinusSrcAlphaFactor,
  ShaderMaterial,
  SRGBColorSpace,
  WebGLRenderTarget,
} from 'three'
import { FullScreenQuad } from 'three/examples/jsm/postprocessing/Pass.js'
import type { Rect } from './view'
import { WHOLE_PICTURE } from './whole-picture'

/**
 * The level as it was drawn, without handles and outlines: as coarsely as there is time for, or piece by piece; shown
 * as large as the stage, and shown again as it is while only what lies over it changes.
 */
export class ScenePicture {
  private target: WebGLRenderTarget | null = null
  private key = ''
  private readonly quad = new FullScreenQuad(
    new ShaderMaterial({
      depthTest: false,
      depthWrite: false,
      toneMapped: false,
      // What is there of it, over what is shown already: colours are as much as is covered of a pixel.
      blending: CustomBlending,
      blendSrc: OneFactor,
      blendDst: OneMinusSrcAlphaFactor,
      uniforms: { picture: { value: null } },
      vertexShader: WHOLE_PICTURE,
      fragmentShader: /* glsl */ `
      uniform sampler2D picture;
      varying vec2 at;
      void main() {
        gl_FragColor = texture2D(picture, at);
      }`,
    }),
  )

  /**
   * What is drawn from now on goes into the picture, over nothing.
   *
   * @param width pixels of it
   * @param samples for each of them; 0 for one alone
   */
  begin(renderer: WebGLRenderer, width: number, height: number, samples: number): void {
    const key = `${width} ${height} ${samples}`
    if (key !== this.key) {
      this.target?.dispose()
      this.target = new WebGLRenderTarget(width, height, {
        samples,
        minFilter: LinearFilter,
        magFilter: LinearFilter,
        colorSpace: SRGBColorSpace,
        internalFormat: 'RGBA8',
      })
      // Colours as for the screen: tones mapped, by the same programs.
      Object.assign(this.target, { isXRRenderTarget: true })
      this.key = key
    }
    const { target } = this
    target!.scissorTest = false
    renderer.setRenderTarget(target)
    renderer.setClearColor(0, 0)
    renderer.clear()
  }

  /**
   * The part of the picture that is drawn next.
   *
   * @param ratio pixels of the picture for each of the stage
   * @param height of the stage
   */
  within({ x, y, width, height: tall }: Rect, ratio: number, height: number, renderer: WebGLRenderer): void {
    const { target } = this
    target!.viewport.set(x * ratio, (height - y - tall) * ratio, width * ratio, tall * ratio).round()
    target!.scissor.copy(target!.viewport)
    target!.scissorTest = true
    renderer.setRenderTarget(target)
  }

  /** Draws no more than a part of it from now on. */
  cut({ x, y, width, height: tall }: Rect, ratio: number, height: number, renderer: WebGLRenderer): void {
    const { target } = this
    target!.scissor.set(x * ratio, (height - y - tall) * ratio, width * ratio, tall * ratio).round()
    renderer.setRenderTarget(target)
  }

  /** Shows it on the stage, whose viewport is set, over what is there. */
  show(renderer: WebGLRenderer): void {
    if (!this.target) return
    renderer.setRenderTarget(null)
    const { material } = this.quad
    ;(material as ShaderMaterial).uniforms.picture!.value = this.target.texture
    this.quad.render(renderer)
  }

  dispose(): void {
    this.target?.dispose()
    this.quad.material.dispose()
    this.quad.dispose()
  }
}
