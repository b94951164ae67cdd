declare module 'poisson-disk-sampling' {
  export default class PoissonDiskSampling {
    constructor(
      options: { shape: number[]; minDistance: number; maxDistance?: number; tries?: number },
      random?: () => number,
    )
    fill(): number[][]
  }
}
