import { CanvasTexture, SRGBColorSpace } from 'three'

/** Pixels that a plate is high. */
export const PLATE = 22
/** Of a plate's picture, twice as sharp as it is shown. */
const SHARP = 2

/** The colours of a plate, as CSS. */
export type PlateColors = { plate: string; text: string; edge: string }
/** Numbers are all as wide as each other; names are not. */
const FONTS = { numbers: '500 13px "JetBrains Mono", monospace', names: '600 14px "Barlow Condensed", sans-serif' }

/** A text on a plate with rounded corners. @returns its picture, and how wide it is meant, in pixels */
export function textPlate(
  text: string,
  { plate, text: ink, edge }: PlateColors,
  as: keyof typeof FONTS = 'numbers',
): { texture: CanvasTexture; width: number } {
  const canvas = document.createElement('canvas')
  const font = FONTS[as].replace(/(\d+)px/, (_, size: string) => `${Number(size) * SHARP}px`)
  const measuring = canvas.getContext('2d')!
  measuring.font = font
  const width = Math.ceil(measuring.measureText(text).width / SHARP) + 16
  canvas.width = width * SHARP
  canvas.height = PLATE * SHARP
  const context = canvas.getContext('2d')!
  context.fillStyle = plate
  context.strokeStyle = edge
  context.lineWidth = SHARP * 1.5
  context.beginPath()
  context.roundRect(SHARP, SHARP, canvas.width - 2 * SHARP, canvas.height - 2 * SHARP, 5 * SHARP)
  context.fill()
  context.stroke()
  context.fillStyle = ink
  context.font = font
  context.textAlign = 'center'
  context.textBaseline = 'middle'
  context.fillText(text, canvas.width / 2, canvas.height / 2 + SHARP)
  const texture = new CanvasTexture(canvas)
  texture.colorSpace = SRGBColorSpace
  return { texture, width }
}
