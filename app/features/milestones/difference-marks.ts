import type { Box3, BufferGeometry } from 'three'
import { Color, Group, InstancedMesh, Matrix4, ShaderMaterial, Sprite, SpriteMaterial, Vector3 } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import type { Board } from '~/stage/board'
import { edgesOf } from '~/stage/box-edges'
import { OVERLAY } from '~/stage/handles/drawings'
import type { StageLayer } from '~/stage/stage-layer'
import { PLATE, textPlate } from '~/stage/text-plate'
import type { View } from '~/stage/view'

/** How something differs, as it is marked: only here, only there, at another place, or otherwise. */
export type MarkedAs = 'here' | 'there' | 'moved' | 'otherwise'

/** What is marked of one thing. */
export type DifferenceMark = {
  key: string
  as: MarkedAs
  /** What it takes up here; empty if it is not here, or shows nothing. */
  box: Box3
  /** Where it is here and there. */
  here: Vector3 | null
  there: Vector3 | null
  /** What it shows there. */
  ghosts: readonly { geometries: readonly BufferGeometry[]; matrices: Float64Array }[]
}

/** What stands on the plate of each, so that colours are not needed to tell them apart. */
const SIGNS: Record<MarkedAs, string> = { here: '+', there: '−', moved: '→', otherwise: '≠' }
/** Pixels: of lines, of those of the current one, and of an arrow's head. */
const [LINE, CURRENT_LINE, HEAD] = [1.8, 3.2, 9]
/** Strokes of a broken line, however long it is: so it stays as it is while somebody looks around. */
const STROKES = 12

/**
 * What differs between the level and what it is compared with: what is only here is framed at its corners, what is only
 * there is hatched, what was elsewhere is dotted there with an arrow from there to here, and what is otherwise has a
 * broken frame.
 */
export class DifferenceMarks implements StageLayer {
  readonly inLevel = new Group()
  readonly over = new Group()
  readonly inPictures = false
  private readonly hatched = patterned(true)
  private readonly dotted = patterned(false)
  private readonly lines = strokes(LINE)
  private readonly current = strokes(CURRENT_LINE)
  private readonly heads = strokes(LINE)
  private readonly plates = new Group()
  private marks: readonly DifferenceMark[] = []
  private currentKey: string | null = null
  private colors: Record<MarkedAs, Color> | null = null
  private board: Board | null = null

  constructor() {
    this.over.add(this.lines, this.current, this.heads, this.plates)
  }

  get isShown(): boolean {
    return this.marks.length > 0
  }

  setBoard(board: Board): void {
    const { colors } = board
    this.board = board
    this.colors = {
      here: new Color(colors.primary),
      there: new Color(colors.error),
      moved: new Color(colors['axis-z']),
      otherwise: new Color(colors['on-background']),
    }
    this.hatched.uniforms.color!.value = this.colors.there
    this.dotted.uniforms.color!.value = this.colors.moved
    this.set(this.marks)
  }

  set(marks: readonly DifferenceMark[]): void {
    this.marks = marks
    this.clear()
    if (!this.board) return
    for (const { as, ghosts } of marks)
      for (const { geometries, matrices } of ghosts)
        for (const geometry of geometries)
          this.inLevel.add(instancesOf(geometry, matrices, as === 'there' ? this.hatched : this.dotted))
    for (const mark of marks) this.addPlate(mark)
    this.fill(this.lines, add => {
      for (const mark of marks) frame(mark, add)
    })
    this.point(this.currentKey)
  }

  /** Shows which of them is the current one. */
  point(key: string | null): void {
    this.currentKey = key
    if (!this.board) return
    this.fill(this.current, add => {
      for (const mark of this.marks) if (mark.key === key) frame(mark, add)
    })
  }

  update(view: View): void {
    this.fill(this.heads, add => {
      for (const { as, here, there } of this.marks)
        if (as === 'moved' && here && there) headOf(there, here, view, (a, b) => add(as, a, b))
    })
    for (const line of [this.lines, this.current, this.heads])
      line.material.resolution.set(view.rect.width, view.rect.height)
    for (const plate of this.plates.children as Sprite[]) {
      const { at, width } = plate.userData as { at: Vector3; width: number }
      const pixel = view.metresPerPixel(at)
      plate.scale.set(width * pixel, PLATE * pixel, 1)
      plate.position.copy(at)
    }
  }

  dispose(): void {
    this.clear()
    for (const material of [this.hatched, this.dotted]) material.dispose()
    for (const line of [this.lines, this.current, this.heads]) {
      line.geometry.dispose()
      line.material.dispose()
    }
  }

  private fill(line: LineSegments2, draw: (add: AddAs) => void): void {
    const [points, tints]: [number[], number[]] = [[], []]
    draw((as, a, b) => {
      for (const end of [a, b]) {
        end.toArray(points, points.length)
        this.colors![as].toArray(tints, tints.length)
      }
    })
    line.geometry.dispose()
    line.geometry = new LineSegmentsGeometry()
    line.visible = points.length > 0
    if (line.visible) line.geometry.setPositions(points).setColors(tints)
  }

  private addPlate({ as, box, here, there }: DifferenceMark): void {
    const at = as === 'there' ? there : box.isEmpty() ? here : topOf(box)
    if (!at) return
    const { colors } = this.board!
    const { texture, width } = textPlate(
      SIGNS[as],
      { plate: `#${this.colors![as].getHexString()}`, text: colors.surface, edge: colors.surface },
      'names',
    )
    const plate = new Sprite(new SpriteMaterial({ ...OVERLAY, map: texture }))
    plate.renderOrder = 9
    plate.userData = { at, width }
    this.plates.add(plate)
  }

  private clear(): void {
    for (const each of [...this.inLevel.children] as InstancedMesh[]) each.removeFromParent().dispose()
    for (const plate of [...this.plates.children] as Sprite[]) {
      plate.removeFromParent()
      plate.material.map?.dispose()
      plate.material.dispose()
    }
  }
}

function instancesOf(geometry: BufferGeometry, matrices: Float64Array, material: ShaderMaterial): InstancedMesh {
  const count = matrices.length / 16
  const mesh = new InstancedMesh(geometry, material, count)
  const matrix = new Matrix4()
  for (let i = 0; i < count; i++) mesh.setMatrixAt(i, matrix.fromArray(matrices, i * 16))
  mesh.frustumCulled = false
  mesh.renderOrder = 3
  return mesh
}

/** Seen through between stripes, or between dots, of the screen. */
function patterned(isHatched: boolean): ShaderMaterial {
  return new ShaderMaterial({
    uniforms: { color: { value: new Color() } },
    vertexShader: `
      varying float shade;
      void main() {
        vec4 at = modelViewMatrix * instanceMatrix * vec4(position, 1.0);
        vec3 turned = normalize(normalMatrix * mat3(instanceMatrix) * normal);
        shade = 0.65 + 0.35 * abs(turned.z);
        gl_Position = projectionMatrix * at;
      }`,
    fragmentShader: `
      uniform vec3 color;
      varying float shade;
      void main() {
        ${
          isHatched
            ? 'if (mod(gl_FragCoord.x + gl_FragCoord.y, 9.0) > 4.5) discard;'
            : 'if (length(mod(gl_FragCoord.xy, 7.0) - 3.5) > 2.3) discard;'
        }
        gl_FragColor = vec4(color * shade, 1.0);
        #include <colorspace_fragment>
      }`,
    toneMapped: false,
  })
}

function strokes(width: number): LineSegments2 {
  const made = new LineSegments2(
    new LineSegmentsGeometry(),
    new LineMaterial({ ...OVERLAY, linewidth: width, vertexColors: true }),
  )
  made.frustumCulled = false
  made.renderOrder = 7
  return made
}

const topOf = ({ min, max }: Box3) => new Vector3((min.x + max.x) / 2, max.y, (min.z + max.z) / 2)

type Add = (a: Vector3, b: Vector3) => void
type AddAs = (as: MarkedAs, a: Vector3, b: Vector3) => void

/** The frame around something, or the way it has gone. */
function frame({ as, box, here, there }: DifferenceMark, addAs: AddAs): void {
  const add: Add = (a, b) => addAs(as, a, b)
  if (as === 'moved' && here && there) broken(there, here, add)
  else if (!box.isEmpty() && as !== 'there')
    for (const [a, b] of edgesOf(box)) {
      if (as === 'here') cornersOf(a, b, add)
      else broken(a, b, add)
    }
}

/** A third of an edge at both its ends, at most half a metre. */
function cornersOf(a: Vector3, b: Vector3, add: Add): void {
  const way = b.clone().sub(a)
  way.setLength(Math.min(way.length() / 3, 0.5))
  add(a, a.clone().add(way))
  add(b, b.clone().sub(way))
}

/** Begins and ends with a stroke. */
function broken(a: Vector3, b: Vector3, add: Add): void {
  const parts = 2 * STROKES - 1
  for (let i = 0; i < parts; i += 2) add(a.clone().lerp(b, i / parts), a.clone().lerp(b, (i + 1) / parts))
}

function headOf(from: Vector3, to: Vector3, view: View, add: Add): void {
  const way = to.clone().sub(from)
  if (way.lengthSq() < 1e-12) return
  const pixel = view.metresPerPixel(to)
  const { forward } = view.directions()
  const back = way.clone().setLength(-HEAD * pixel)
  const aside = way.clone().cross(forward)
  if (aside.lengthSq() < 1e-12) return
  aside.setLength(HEAD * 0.6 * pixel)
  for (const sign of [1, -1]) add(to, to.clone().add(back).addScaledVector(aside, sign))
}
