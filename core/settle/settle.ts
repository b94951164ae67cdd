import RAPIER from '@dimforge/rapier3d-compat'
import { Matrix4, Quaternion, Vector3 } from 'three'

/** A thing that falls: sixteen numbers where it stands, and its points in its own axes, three numbers each. */
export type Falling = { id: string; matrix: Float64Array; points: Float32Array; as: 'hull' | 'box' }

/** What things fall onto: triangles in the world. */
export type Fixed = { positions: Float32Array; indices: Uint32Array }

export type SettleScene = { falling: readonly Falling[]; fixed: readonly Fixed[] }

/** Things that may fall at a time. */
export const MOST_FALLING = 2000

const [GRAVITY, STEP] = [-9.81, 1 / 60]
/** Seconds after which what still moves is left where it is. */
const LONGEST = 30
/**
 * Steps of the library in one of ours. Of things that carry each other the lowest carries all, which takes small steps
 * and stiff contacts.
 */
const PARTS = 8
/** How stiff a contact is, in hertz: half as quick as the library's steps; stiffer ones throw towers over. */
const STIFFNESS = PARTS / STEP / 2
/** How far things may stand within each other, in metres. */
const WITHIN = 0.00004
/**
 * Slower than this, in metres and radians a second, is what the library's rounding does by itself: it is held by as
 * much damping.
 */
const [CREEP, CREEP_TURN, HELD] = [0.02, 0.05, 10]
/** Of the air, a second. */
const [DRAG, DRAG_TURN] = [0.05, 0.3]
/**
 * Moved and turned by less than this, in metres and by the quaternions' dot product, in as many steps counts as
 * resting.
 */
const [MOVED, TURNED, REST_STEPS] = [0.0005, 1 - 1e-6, 30]
/** The least that a hull is thick, in metres: a flat thing has to have an inside. */
const THINNEST = 0.004

let loading: Promise<void> | undefined

/**
 * Loads the physics library, once: loaded a second time while the first is under way, it would take the worlds of the
 * first away.
 */
export function loadPhysics(): Promise<void> {
  return (loading ??= RAPIER.init())
}

type Body = {
  body: RAPIER.RigidBody
  /** From the thing's own axes to the body's. */
  toBody: Matrix4
  /** How long it has been near a place, and where and how turned that is. */
  restSteps: number
  place: Vector3
  turn: Quaternion
}

/**
 * Things that fall by their weight until they rest on what is fixed and on each other. The same scene always comes to
 * the same end, wherever it is worked out: the library is one and the same WebAssembly, and steps are as long as they
 * are. `loadPhysics` has to have been called.
 *
 * @example
 * await loadPhysics()
 * const settling = new Settling({ falling: [], fixed: [] })
 * settling.isDone // true
 */
export class Settling {
  private readonly world: RAPIER.World
  private readonly bodies: Body[]
  private steps = 0

  constructor({ falling, fixed }: SettleScene) {
    this.world = new RAPIER.World({ x: 0, y: GRAVITY, z: 0 })
    this.world.timestep = STEP / PARTS
    this.world.numSolverIterations = 8
    this.world.numInternalPgsIterations = 2
    this.world.integrationParameters.normalizedAllowedLinearError = WITHIN
    this.world.integrationParameters.contact_natural_frequency = STIFFNESS
    for (const { positions, indices } of fixed) {
      if (indices.length > 0)
        this.world.createCollider(RAPIER.ColliderDesc.trimesh(positions, indices).setFriction(0.7).setRestitution(0))
    }
    this.bodies = falling.map(each => this.addBody(each))
  }

  /** How long things have been falling, in seconds. */
  get seconds(): number {
    return this.steps * STEP
  }

  get isDone(): boolean {
    return this.seconds >= LONGEST || this.bodies.every(({ restSteps }) => restSteps >= REST_STEPS)
  }

  /** How many rest. */
  get resting(): number {
    return this.bodies.filter(({ restSteps }) => restSteps >= REST_STEPS).length
  }

  /** Energy of motion and of height, in joule for things of 1 t a cubic metre. */
  get energy(): number {
    return this.bodies.reduce((sum, { body }) => {
      const { x, y, z } = body.linvel()
      return sum + body.mass() * ((x * x + y * y + z * z) / 2 - GRAVITY * body.worldCom().y)
    }, 0)
  }

  /** Moves on by a sixtieth of a second. */
  step(): void {
    for (const { body } of this.bodies) holdCreeping(body)
    for (let part = 0; part < PARTS; part++) this.world.step()
    this.steps++
    for (const each of this.bodies) {
      const [t, r] = [each.body.translation(), each.body.rotation()]
      position.set(t.x, t.y, t.z)
      rotation.set(r.x, r.y, r.z, r.w)
      if (position.distanceTo(each.place) < MOVED && Math.abs(rotation.dot(each.turn)) > TURNED) {
        each.restSteps++
        continue
      }
      each.restSteps = 0
      each.place.copy(position)
      each.turn.copy(rotation)
    }
  }

  /** Where everything is now: sixteen numbers for each thing, in the order given. */
  matrices(): Float64Array {
    const out = new Float64Array(this.bodies.length * 16)
    for (const [i, { body, toBody }] of this.bodies.entries()) {
      const [t, r] = [body.translation(), body.rotation()]
      scratch.compose(position.set(t.x, t.y, t.z), rotation.set(r.x, r.y, r.z, r.w), one).multiply(toBody)
      out.set(scratch.elements, i * 16)
    }
    return out
  }

  dispose(): void {
    this.world.free()
  }

  private addBody({ matrix, points, as }: Falling): Body {
    const toWorld = new Matrix4().fromArray(matrix)
    toWorld.decompose(position, rotation, scale)
    rotation.normalize()
    // Size and skew go into the points; the body only moves and turns.
    const toBody = new Matrix4().compose(position, rotation, one).invert().multiply(toWorld)
    const own = new Float32Array(points.length)
    const [least, most, point] = [
      new Vector3(Infinity, Infinity, Infinity),
      new Vector3(-Infinity, -Infinity, -Infinity),
      new Vector3(),
    ]
    for (let i = 0; i < points.length; i += 3) {
      point
        .set(points[i]!, points[i + 1]!, points[i + 2]!)
        .applyMatrix4(toBody)
        .toArray(own, i)
      least.min(point)
      most.max(point)
    }
    const body = this.world.createRigidBody(
      RAPIER.RigidBodyDesc.dynamic()
        .setTranslation(position.x, position.y, position.z)
        .setRotation({ x: rotation.x, y: rotation.y, z: rotation.z, w: rotation.w })
        .setCcdEnabled(true)
        .setLinearDamping(DRAG)
        .setAngularDamping(DRAG_TURN),
    )
    const size = most.clone().sub(least)
    const hull =
      as === 'hull' && Math.min(size.x, size.y, size.z) > THINNEST ? RAPIER.ColliderDesc.convexHull(own) : null
    const middle = least.clone().add(most).divideScalar(2)
    const shape =
      hull
      ?? RAPIER.ColliderDesc.cuboid(
        ...(size.toArray().map(side => Math.max(side, THINNEST) / 2) as [number, number, number]),
      ).setTranslation(middle.x, middle.y, middle.z)
    this.world.createCollider(shape.setDensity(1000).setFriction(0.6).setRestitution(0.02), body)
    return { body, toBody, restSteps: 0, place: position.clone(), turn: rotation.clone() }
  }
}

/** Keeps towers from leaning: what hardly moves at all is slowed down, unless something pulls at it. */
function holdCreeping(body: RAPIER.RigidBody): void {
  const [v, w] = [body.linvel(), body.angvel()]
  const creeps = Math.hypot(v.x, v.y, v.z) < CREEP && Math.hypot(w.x, w.y, w.z) < CREEP_TURN
  body.setLinearDamping(creeps ? HELD : DRAG)
  body.setAngularDamping(creeps ? HELD : DRAG_TURN)
}

const [position, rotation, scale, one] = [new Vector3(), new Quaternion(), new Vector3(), new Vector3(1, 1, 1)]
const scratch = new Matrix4()
