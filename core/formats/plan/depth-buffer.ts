/** What is nearest at each point of a picture: the greatest depth, towards who looks. */
export class DepthBuffer {
  private readonly depths: Float32Array

  /** @param width in points, and `height` */
  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.depths = new Float32Array(width * height).fill(-Infinity)
  }

  /** Draws a triangle: X and Y in points, Z the depth. The depth at a point is that in the middle of it. */
  triangle(
    ax: number,
    ay: number,
    az: number,
    bx: number,
    by: number,
    bz: number,
    cx: number,
    cy: number,
    cz: number,
  ): void {
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if (area === 0) return
    const [top, bottom] = [
      Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5)),
      Math.min(this.height - 1, Math.floor(Math.max(ay, by, cy) - 0.5)),
    ]
    const slopeX = ((bz - az) * (cy - ay) - (cz - az) * (by - ay)) / area
    const slopeY = ((cz - az) * (bx - ax) - (bz - az) * (cx - ax)) / area
    for (let row = top; row <= bottom; row++) {
      const y = row + 0.5
      // Where the line through the middles of this row's points crosses the sides.
      let [from, to] = [Infinity, -Infinity]
      const cross = (x0: number, y0: number, x1: number, y1: number) => {
        if (y < Math.min(y0, y1) || y > Math.max(y0, y1) || y0 === y1) return
        const x = x0 + ((x1 - x0) * (y - y0)) / (y1 - y0)
        from = Math.min(from, x)
        to = Math.max(to, x)
      }
      cross(ax, ay, bx, by)
      cross(bx, by, cx, cy)
      cross(cx, cy, ax, ay)
      const [left, right] = [Math.max(0, Math.ceil(from - 0.5)), Math.min(this.width - 1, Math.floor(to - 0.5))]
      for (let column = left, at = row * this.width + left; column <= right; column++, at++) {
        const depth = az + slopeX * (column + 0.5 - ax) + slopeY * (y - ay)
        if (depth > this.depths[at]!) this.depths[at] = depth
      }
    }
  }

  /** The depth at a point; nothing is there outside, or where nothing was drawn. */
  at(x: number, y: number): number {
    const [column, row] = [Math.floor(x), Math.floor(y)]
    return column < 0 || row < 0 || column >= this.width || row >= this.height
      ? -Infinity
      : this.depths[row * this.width + column]!
  }
}
