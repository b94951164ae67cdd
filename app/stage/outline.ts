import type { Matrix4 } from 'three'
import { AdditiveBlending, Color, DoubleSide, MeshBasicMaterial, ShaderMaterial, Vector2 } from 'three'
import type { ShapeCopies } from '~~/core/scene/expand'
import type { DrawableOf } from './batches'
import { PartBatches } from './batches'
import type { Board } from './board'
import { CopyBatches } from './copy-batches'
import { EdgeMask } from './edge-mask'
import { WHOLE_PICTURE } from './whole-picture'

/** Copies of one shape in one arrangement; more would cost more to outline than to draw. */
const MOST_OUTLINED = 10_000

/** Things that are outlined in one way. */
export class Outlines {
  private readonly parts: PartBatches
  private readonly copies: CopyBatches

  constructor(mask: EdgeMask, drawableOf: DrawableOf, boxOf: DrawableOf) {
    this.parts = new PartBatches(drawableOf, false)
    this.copies = new CopyBatches(drawableOf, { boxOf, most: MOST_OUTLINED })
    mask.add(this.parts, this.copies)
  }

  set(id: string, shape: string, matrix: Matrix4): void {
    this.parts.set(id, shape, matrix)
  }

  setCopies(id: string, copies: readonly ShapeCopies[], matrix: Matrix4): void {
    this.copies.set(id, copies, matrix)
  }

  clear(): void {
    this.parts.clear()
    this.copies.clear()
  }

  /** Drops what is kept for shapes that are not outlined any more. */
  prune(): void {
    this.parts.prune()
  }

  /** Outlines nothing any more of parts that look otherwise now. */
  forget(parts: ReadonlySet<string>): void {
    this.parts.forget(parts)
    this.copies.forget(parts)
  }
}

/** Drawables in one flat colour. @param adds to what is behind, instead of covering it */
function flat(color: string, adds: boolean): (of: DrawableOf) => DrawableOf {
  const material = new MeshBasicMaterial({
    color,
    side: DoubleSide,
    depthTest: false,
    toneMapped: false,
    ...(adds && { blending: AdditiveBlending }),
  })
  return of => (shape, mirrored) => of(shape, mirrored)?.map(item => ({ ...item, material }))
}

/** One's own: picked, last picked (thicker) and hovered (thin, dashed), each in a channel of the mask. */
export class OwnOutlines {
  readonly mask: EdgeMask
  readonly picked: Outlines
  readonly last: Outlines
  readonly hovered: Outlines
  private readonly edges = ownEdges()

  constructor(drawableOf: DrawableOf, boxOf: DrawableOf) {
    this.mask = new EdgeMask(this.edges)
    const channel = (color: string) => {
      const paint = flat(color, true)
      return new Outlines(this.mask, paint(drawableOf), paint(boxOf))
    }
    this.picked = channel('#ff0000')
    this.last = channel('#00ff00')
    this.hovered = channel('#0000ff')
  }

  setBoard({ colors }: Board): void {
    this.edges.uniforms.picked!.value.set(colors.picked)
    this.edges.uniforms.hovered!.value.set(colors.primary)
  }

  get all(): Outlines[] {
    return [this.picked, this.last, this.hovered]
  }
}

/** What other people have picked, in colours of their own. */
export class OthersOutlines {
  readonly mask = new EdgeMask(othersEdges())
  private readonly byColor = new Map<string, Outlines>()

  constructor(
    private readonly drawableOf: DrawableOf,
    private readonly boxOf: DrawableOf,
  ) {}

  /** Those of a colour, as CSS; not black, which is where nothing is. */
  of(color: string): Outlines {
    let outlines = this.byColor.get(color)
    if (!outlines) {
      const paint = flat(color, false)
      this.byColor.set(color, (outlines = new Outlines(this.mask, paint(this.drawableOf), paint(this.boxOf))))
    }
    return outlines
  }

  get all(): Outlines[] {
    return [...this.byColor.values()]
  }
}

const edgesOf = (uniforms: Record<string, { value: unknown }>, functions: string) =>
  new ShaderMaterial({
    transparent: true,
    depthTest: false,
    depthWrite: false,
    uniforms: { mask: { value: null }, texel: { value: new Vector2() }, ratio: { value: 1 }, ...uniforms },
    vertexShader: WHOLE_PICTURE,
    fragmentShader: /* glsl */ `
      uniform sampler2D mask;
      uniform vec2 texel;
      uniform float ratio;
      varying vec2 at;
      vec3 around(float radius) {
        vec3 most = vec3(0.0);
        for (int i = 0; i < 12; i++) {
          float angle = float(i) * 0.5236;
          most = max(most, texture2D(mask, at + vec2(cos(angle), sin(angle)) * texel * radius * ratio).rgb);
        }
        return most;
      }
      ${functions}`,
  })

const ownEdges = () =>
  edgesOf(
    { picked: { value: new Color() }, hovered: { value: new Color() } },
    /* glsl */ `
      uniform vec3 picked;
      uniform vec3 hovered;
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
  )

const othersEdges = () =>
  edgesOf(
    {},
    /* glsl */ `
      float seen(vec3 color) { return step(0.004, max(max(color.r, color.g), color.b)); }
      void main() {
        vec3 beside = around(1.1);
        if (seen(texture2D(mask, at).rgb) > 0.0 || seen(beside) == 0.0) discard;
        gl_FragColor = vec4(beside, 1.0);
        #include <colorspace_fragment>
      }`,
  )
