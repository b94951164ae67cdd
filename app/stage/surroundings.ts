import type { Box3, Scene } from 'three'
import {
  BackSide,
  Color,
  DirectionalLight,
  DoubleSide,
  HemisphereLight,
  LessEqualDepth,
  Mesh,
  PlaneGeometry,
  Quaternion,
  ShaderMaterial,
  SphereGeometry,
  Vector2,
  Vector3,
} from 'three'
import type { ViewKind } from '~~/core/math/pose'
import { FIXED_VIEWS } from '~~/core/math/pose'
import type { SkyFields } from '~~/core/level/sky'
import { exposureFactor, FIRST_SKIES, WORKING_SUNS } from '~~/core/level/sky'
import type { Shining } from '~~/core/scene/level-lamps'
import type { Board } from './board'
import { boards } from './board'

/** A plane to draw the grid in: the X and Z of its axes, through its origin. */
export type GridPlane = { origin: Vector3; axes: Quaternion }

const ORIGIN = new Vector3()
/** Metres around the focus of a large level that have shadows, and that it moves on by before they follow. */
const [COVERED, STRIDE] = [45, 12]
/** Towards the working sun. */
const WORKING_DIRECTION = new Vector3(-0.45, 0.8, 0.52).normalize()
/** The plane each view shows the grid in by itself. */
const PLANES: Record<ViewKind, Quaternion> = {
  walkaround: new Quaternion(),
  plan: new Quaternion(),
  front: new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), Math.PI / 2),
  side: new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), Math.PI / 2),
}

/** Sky, sun, fill light and the ground grid: all that is drawn around the level itself. */
export class Surroundings {
  private readonly sky = new Mesh(new SphereGeometry(1, 32, 16), skyMaterial())
  private readonly grid = new Mesh(new PlaneGeometry(2, 2).rotateX(-Math.PI / 2), gridMaterial())
  private readonly sun = new DirectionalLight()
  private readonly fill = new HemisphereLight()
  private readonly direction = WORKING_DIRECTION.clone()
  private skyFields: SkyFields = FIRST_SKIES.day

  constructor(scene: Scene) {
    this.sky.frustumCulled = false
    this.sky.renderOrder = -1
    this.grid.frustumCulled = false
    this.grid.renderOrder = 1
    this.sun.castShadow = true
    this.sun.shadow.radius = 2
    this.sun.shadow.mapSize.set(2048, 2048)
    this.sun.shadow.normalBias = 0.03
    this.sun.shadow.bias = -0.0002
    scene.add(this.sky, this.sun, this.sun.target, this.fill, this.grid)
  }

  private gridShown = true
  /** Whether there are shadows all over the level. */
  private coversAll = true
  /** For a picture without it. */
  gridHidden = false
  private worked: GridPlane | null = null

  setBoard(board: Board): void {
    this.grid.material.uniforms.color!.value.set(board.colors.grid)
  }

  /** The light from all around, and how the sky looks. */
  setSky(sky: SkyFields): void {
    const { colors } = boards[sky.of]
    this.sky.material.uniforms.top!.value.set(colors['sky-top'])
    this.sky.material.uniforms.horizon!.value.set(colors['sky-horizon'])
    this.fill.color.set(sky.color)
    this.fill.groundColor.set(sky.ground)
    this.skyFields = sky
  }

  /**
   * @param even lights everything from all sides alike, for seeing shapes in dark corners
   * @param sun the level's own, if one shines
   * @param isLit whether the level needs no working light
   */
  light(even: boolean, sun: Shining | null, isLit: boolean): void {
    const { of, ambient, exposure } = this.skyFields
    const shown = exposureFactor(exposure)
    const working = WORKING_SUNS[of]
    this.sun.color.set(sun?.light.color ?? working.color)
    this.sun.castShadow = sun?.light.shadow ?? true
    this.sun.intensity = even ? 0.5 : sun ? sun.light.intensity * shown : isLit ? 0 : working.lux * shown
    this.fill.intensity = even ? 3.2 : ambient * shown
  }

  /** Where the sun stands: the level's own, or where the working one is. @returns whether it has moved */
  placeSun(sun: Shining | null): boolean {
    const direction = sun ? new Vector3(0, 0, 1).transformDirection(sun.matrix) : WORKING_DIRECTION
    if (this.direction.distanceToSquared(direction) < 1e-12) return false
    this.direction.copy(direction)
    // Its place goes by the direction.
    this.sun.shadow.camera.right = 0
    return true
  }

  /**
   * Puts the sun so that its shadow map covers the level, or some metres around `focus` in a larger one.
   *
   * @returns whether it covers other places than before
   */
  coverWithShadow(level: Box3, focus: Vector3): boolean {
    const middle = level.isEmpty() ? focus.clone() : level.getCenter(new Vector3())
    const radius = level.isEmpty() ? 10 : level.getSize(new Vector3()).length() / 2
    const reach = Math.min(radius, COVERED)
    this.coversAll = radius <= COVERED
    const { sun } = this
    // Around the focus of a large level the shadows go along in strides, the same wherever it came from.
    if (radius > COVERED) middle.copy(focus).divideScalar(STRIDE).round().multiplyScalar(STRIDE)
    if (middle.equals(sun.target.position) && sun.shadow.camera.right === reach) return false
    sun.target.position.copy(middle)
    this.sun.position.copy(middle).addScaledVector(this.direction, reach * 2)
    const { camera } = this.sun.shadow
    camera.left = camera.bottom = -reach
    camera.right = camera.top = reach
    camera.near = 0.1
    camera.far = reach * 4
    camera.updateProjectionMatrix()
    this.sun.target.updateMatrixWorld()
    return true
  }

  /** Metres around its middle that the sun's shadows cover, that middle, and the metres of one of their pixels. */
  get shadowed(): { middle: Vector3; reach: number; texel: number; isAll: boolean } {
    const { target, shadow } = this.sun
    return {
      middle: target.position,
      reach: shadow.camera.right,
      texel: (2 * shadow.camera.right) / shadow.mapSize.width,
      isAll: this.coversAll,
    }
  }

  /** @param step metres between lines; every tenth is stronger. 0 hides the grid */
  setGrid(step: number): void {
    this.gridShown = step > 0
    if (step > 0) this.grid.material.uniforms.step!.value = step
  }

  skyShown = true

  /** Which of them are drawn next: while a picture is built up the sky comes behind what is there, the grid over it. */
  only(which: 'none' | 'sky' | 'grid' | 'both'): void {
    this.sky.visible = this.skyShown && (which === 'sky' || which === 'both')
    this.grid.visible = this.gridShown && !this.gridHidden && (which === 'grid' || which === 'both')
  }

  /** Draws the grid in a plane that is worked in, or again in the one each view has by itself. */
  workIn(plane: GridPlane | null): void {
    this.worked = plane
  }

  /**
   * Fits sky and grid to a view.
   *
   * @param far the camera's far distance; the sky lies just inside it
   * @param across metres the view spans if it is orthographic, else 0. Such a view has no horizon and no sky
   */
  follow(eye: Vector3, far: number, across: number, kind: ViewKind): void {
    this.sky.position.copy(eye)
    this.sky.scale.setScalar(far * 0.9)
    const { origin, axes } = this.worked ?? { origin: ORIGIN, axes: PLANES[kind] }
    const reach = across > 0 ? across * 3 : Math.min(far * 0.8, Math.max(60, Math.abs(eye.y) * 14))
    const inPlane = eye.clone().sub(origin).applyQuaternion(axes.clone().invert())
    this.grid.quaternion.copy(axes)
    this.grid.position.set(inPlane.x, 0, inPlane.z).applyQuaternion(axes).add(origin)
    // A fixed view from the side has its grid behind everything.
    if (!this.worked && (kind === 'front' || kind === 'side'))
      this.grid.position.addScaledVector(FIXED_VIEWS[kind].forward, far * 0.4)
    this.grid.scale.set(reach, 1, reach)
    const { uniforms } = this.grid.material
    uniforms.reach!.value = reach
    uniforms.eye!.value.set(inPlane.x, inPlane.z)
    uniforms.origin!.value.copy(origin)
    uniforms.first!.value.set(1, 0, 0).applyQuaternion(axes)
    uniforms.second!.value.set(0, 0, 1).applyQuaternion(axes)
  }
}

function skyMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    side: BackSide,
    depthWrite: false,
    depthFunc: LessEqualDepth,
    uniforms: { top: { value: new Color() }, horizon: { value: new Color() } },
    vertexShader: /* glsl */ `
      varying vec3 toward;
      void main() {
        toward = position;
        gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
        // Behind all there is.
        gl_Position.z = gl_Position.w;
      }`,
    fragmentShader: /* glsl */ `
      uniform vec3 top;
      uniform vec3 horizon;
      varying vec3 toward;
      void main() {
        float height = normalize(toward).y;
        gl_FragColor = vec4(mix(horizon, top, smoothstep(-0.02, 0.45, height)), 1.0);
        #include <colorspace_fragment>
      }`,
  })
}

/** Lines are anti-aliased by their width on the screen and fade where they would crowd or lie far off. */
function gridMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    side: DoubleSide,
    transparent: true,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -1,
    polygonOffsetUnits: -1,
    uniforms: {
      color: { value: new Color() },
      step: { value: 1 },
      reach: { value: 100 },
      eye: { value: new Vector2() },
      origin: { value: new Vector3() },
      first: { value: new Vector3(1, 0, 0) },
      second: { value: new Vector3(0, 0, 1) },
    },
    vertexShader: /* glsl */ `
      uniform vec3 origin;
      uniform vec3 first;
      uniform vec3 second;
      varying vec2 place;
      void main() {
        vec4 world = modelMatrix * vec4(position, 1.0);
        place = vec2(dot(world.xyz - origin, first), dot(world.xyz - origin, second));
        gl_Position = projectionMatrix * viewMatrix * world;
      }`,
    fragmentShader: /* glsl */ `
      uniform vec3 color;
      uniform vec2 eye;
      uniform float step;
      uniform float reach;
      varying vec2 place;
      float lines(float pitch) {
        vec2 at = place / pitch;
        vec2 width = fwidth(at);
        vec2 off = abs(fract(at - 0.5) - 0.5) / max(width, vec2(1e-6));
        float crowded = 1.0 - smoothstep(0.12, 0.45, max(width.x, width.y));
        return (1.0 - min(min(off.x, off.y), 1.0)) * crowded;
      }
      void main() {
        float far = length(place - eye) / reach;
        float strength = max(lines(step) * 0.22, lines(step * 10.0) * 0.45) * (1.0 - smoothstep(0.3, 0.95, far));
        if (strength < 0.01) discard;
        gl_FragColor = vec4(color, strength);
        #include <colorspace_fragment>
      }`,
  })
}
