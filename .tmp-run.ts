import { BoxGeometry, Matrix4, TorusGeometry, Vector3 } from 'three'
import { testSolid } from './tests/support'
import { triangleTreeOf } from './core/mesh/triangle-tree'
import { Placed } from './core/mesh/placed'
import { isInside } from './core/mesh/overlap'
const box = testSolid(new BoxGeometry(1, 1, 1))
const t = triangleTreeOf(box)
console.log(t.left, t.right, t.first, t.count, t.boxes, t.corners.slice(0, 18))
console.log(isInside(new Vector3(0.1, 0.1, 0.2), new Placed(box, new Matrix4())))
const torus = testSolid(new TorusGeometry(0.8, 0.2, 8, 14))
console.log(torus.bounds, isInside(new Vector3(0.8, 0, 0), new Placed(torus, new Matrix4())))
