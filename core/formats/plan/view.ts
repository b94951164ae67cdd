import { Matrix4 } from 'three'

/** From where a plan is seen. */
export const VIEWS = ['top', 'front', 'back', 'left', 'right'] as const
export type PlanView = (typeof VIEWS)[number]

/** What people call them. The front of things is +Z. */
export const VIEW_NAMES: Record<PlanView, string> = {
  top: 'Plan, from above',
  front: 'From the front',
  back: 'From the back',
  left: 'From the left',
  right: 'From the right',
}

/**
 * From the world to the drawing: X to the right and Y down the paper, in metres; Z towards who looks. From above -Z of
 * the world is up on the paper.
 */
export function viewMatrix(view: PlanView): Matrix4 {
  switch (view) {
    case 'top':
      return new Matrix4().set(1, 0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 1)
    case 'front':
      return new Matrix4().set(1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    case 'back':
      return new Matrix4().set(-1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1)
    case 'left':
      return new Matrix4().set(0, 0, 1, 0, 0, -1, 0, 0, -1, 0, 0, 0, 0, 0, 0, 1)
    case 'right':
      return new Matrix4().set(0, 0, -1, 0, 0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 0, 1)
  }
}
