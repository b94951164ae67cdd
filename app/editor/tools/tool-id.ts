/** What can be measured, by what is clicked for it. */
export const MEASURE_TASKS = [
  'tape',
  'angle',
  'edges',
  'slope',
  'face-slope',
  'face',
  'faces',
  'loop',
  'height',
  'clearance',
  'length',
] as const
export type MeasureTask = (typeof MEASURE_TASKS)[number]

/** What can be put down by a click or a drag. */
export const MARK_TASKS = ['camera', 'sun', 'point', 'spot', 'area', 'spawn', 'volume', 'note'] as const
export type MarkTask = (typeof MARK_TASKS)[number]

/** What a brush does: to the mask, or with single copies. */
export type BrushDoes = 'add' | 'remove' | 'soften' | 'put' | 'take'

/** Which tool has the stage, and with what. Whoever has to know of a tool knows it by this alone. */
export type ToolId =
  | { tool: 'place'; /** The part, or the several that are one entry. */ what: string }
  | { tool: 'block' }
  | { tool: 'chain' }
  | { tool: 'touch' }
  | { tool: 'path'; draws: 'arrangement' | 'walk' }
  | { tool: 'area' }
  | { tool: 'brush'; does: BrushDoes }
  | { tool: 'measure'; task: MeasureTask }
  | { tool: 'measure-end' }
  | { tool: 'mark'; task: MarkTask }
  | { tool: 'walk' }
  | { tool: 'pour' }
  | { tool: 'settle' }

/** The tool of a name. */
export type ToolNamed<T extends ToolId['tool']> = Extract<ToolId, { tool: T }>
