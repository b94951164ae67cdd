import { CanvasTexture, Sprite, SpriteMaterial, SRGBColorSpace } from 'three'
import type { ScreenPoint } from '~~/core/math/screen'

/** How handles are drawn: over everything else, in their own colours. */
export const OVERLAY = { depthTest: false, depthWrite: false, transparent: true, toneMapped: false }

/** A picture that always faces the viewer. @param size in the units of what it stands in */
export function sprite(texture: CanvasTexture | null, size: number, order: number): Sprite {
  const made = new Sprite(new SpriteMaterial({ ...OVERLAY, map: texture }))
  made.scale.setScalar(size)
  made.renderOrder = order
  return made
}

export function redraw(target: Sprite, texture: CanvasTexture): void {
  target.material.map?.dispose()
  target.material.map = texture
  target.material.needsUpdate = true
}

/** A five-sided tag whose point shows to the right. */
export function tagTexture(color: string, border: string): CanvasTexture {
  return drawn(context => {
    context.fillStyle = color
    context.strokeStyle = border
    context.lineWidth = 4
    context.lineJoin = 'round'
    context.beginPath()
    for (const [x, y] of [
      [9, 10],
      [40, 10],
      [61, 32],
      [40, 54],
      [9, 54],
    ] as const)
      context.lineTo(x, y)
    context.closePath()
    context.fill()
    context.stroke()
  })
}

/** A letter by itself, upright. */
export function letterTexture(letter: string, color: string): CanvasTexture {
  return drawn(context => write(context, letter, color))
}

/** A small plate with a letter. */
export function plateTexture(letter: string, color: string, ink: string): CanvasTexture {
  return drawn(context => {
    context.fillStyle = color
    context.beginPath()
    context.roundRect(8, 8, 48, 48, 9)
    context.fill()
    write(context, letter, ink)
  })
}

function write(context: CanvasRenderingContext2D, letter: string, color: string): void {
  context.fillStyle = color
  context.font = '600 36px "Barlow Condensed", sans-serif'
  context.textAlign = 'center'
  context.textBaseline = 'middle'
  context.fillText(letter, 32, 34)
}

/** A square with a border. */
export function squareTexture(color: string, fill = '#fff'): CanvasTexture {
  return drawn(context => {
    context.fillStyle = fill
    context.fillRect(12, 12, 40, 40)
    context.strokeStyle = color
    context.lineWidth = 9
    context.strokeRect(14, 14, 36, 36)
  })
}

/** A disc with a border. */
export function dotTexture(color: string, fill: string): CanvasTexture {
  return drawn(context => {
    context.fillStyle = color
    disc(context, 26)
    context.fillStyle = fill
    disc(context, 16)
  })
}

/** A square stood on its corner: a point that has been caught or could be. */
export function diamondTexture(color: string, filled: boolean): CanvasTexture {
  return drawn(context => {
    context.translate(32, 32)
    context.rotate(Math.PI / 4)
    context.lineWidth = 8
    context.strokeStyle = color
    context.fillStyle = color
    if (filled) context.fillRect(-17, -17, 34, 34)
    context.strokeRect(-17, -17, 34, 34)
  })
}

/** A hexagon, or where something can be added a ring with a plus. */
export function ruleGripTexture(color: string, border: string, adds: boolean): CanvasTexture {
  return drawn(context => {
    context.lineWidth = 7
    context.strokeStyle = border
    context.fillStyle = color
    context.beginPath()
    if (adds) context.arc(32, 32, 24, 0, 2 * Math.PI)
    else
      for (let i = 0; i < 6; i++)
        context.lineTo(32 + 27 * Math.cos((i * Math.PI) / 3), 32 + 27 * Math.sin((i * Math.PI) / 3))
    context.closePath()
    context.fill()
    context.stroke()
    if (!adds) return
    context.beginPath()
    context.moveTo(32, 19)
    context.lineTo(32, 45)
    context.moveTo(19, 32)
    context.lineTo(45, 32)
    context.stroke()
  })
}

/** A map pin. */
export function pinTexture(color: string): CanvasTexture {
  return drawn(context => {
    context.fillStyle = color
    context.beginPath()
    context.arc(32, 20, 16, 0.85 * Math.PI, 2.15 * Math.PI)
    context.lineTo(32, 62)
    context.fill()
    context.fillStyle = '#fff'
    context.beginPath()
    context.arc(32, 20, 6, 0, 2 * Math.PI)
    context.fill()
  })
}

/** A ring with a dot: the point things turn and grow around. */
export function pivotTexture(color: string): CanvasTexture {
  return drawn(context => {
    context.strokeStyle = '#fff'
    context.lineWidth = 12
    circle(context, 22)
    context.strokeStyle = color
    context.lineWidth = 6
    circle(context, 22)
    context.fillStyle = color
    disc(context, 7)
  })
}

function disc(context: CanvasRenderingContext2D, radius: number): void {
  context.beginPath()
  context.arc(32, 32, radius, 0, 2 * Math.PI)
  context.fill()
}

function circle(context: CanvasRenderingContext2D, radius: number): void {
  context.beginPath()
  context.arc(32, 32, radius, 0, 2 * Math.PI)
  context.stroke()
}

function drawn(draw: (context: CanvasRenderingContext2D) => void): CanvasTexture {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  draw(canvas.getContext('2d')!)
  const texture = new CanvasTexture(canvas)
  texture.colorSpace = SRGBColorSpace
  return texture
}

export function distance(a: ScreenPoint, b: ScreenPoint): number {
  return Math.hypot(a.x - b.x, a.y - b.y)
}

export function distanceToSegment(at: ScreenPoint, a: ScreenPoint, b: ScreenPoint): number {
  const [dx, dy] = [b.x - a.x, b.y - a.y]
  const along = Math.min(Math.max(((at.x - a.x) * dx + (at.y - a.y) * dy) / (dx * dx + dy * dy || 1), 0), 1)
  return Math.hypot(at.x - a.x - along * dx, at.y - a.y - along * dy)
}
