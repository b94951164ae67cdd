import type { WebGLRenderer } from 'three'
import { LinearFilter, NoBlending, ShaderMaterial, SRGBColorSpace, WebGLRenderTarget } from 'three'
import { FullScreenQuad } from 'three/examples/jsm/postprocessing/Pass.js'
import type { Rect } from './view'
import { WHOLE_PICTURE } from './whole-picture'

/**
 * The level as it was drawn last, without handles and outlines: drawn as coarsely as there is time for, shown as large
 * as the stage, and shown again as it is while only what lies over it changes.
 */
export class ScenePicture {
  private target: WebGLRenderTarget | null = null
  private key = ''
  private readonly quad = new FullScreenQuad(
    new ShaderMaterial({
      depthTest: false,
      depthWrite: false,
      toneMapped: false,
      blending: NoBlending,
      uniforms: { picture: { value: null } },
      vertexShader: WHOLE_PICTURE,
      fragmentShader: /* glsl */ `
      uniform sampler2D picture;
      varying vec2 at;
      void main() {
        gl_FragColor = vec4(texture2D(picture, at).rgb, 1.0);
      }`,
    }),
  )

  /**
   * What is drawn from now on goes into the picture.
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

  /** Shows it on the stage, whose viewport is set. */
  show(renderer: WebGLRenderer): void {
    renderer.setRenderTarget(null)
    const { material } = this.quad
    ;(material as ShaderMaterial).uniforms.picture!.value = this.target!.texture
    this.quad.render(renderer)
  }

  dispose(): void {
    this.target?.dispose()
    this.quad.material.dispose()
    this.quad.dispose()
  }
}
