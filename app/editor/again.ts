import { orNothing } from '~/errors/or-nothing'

/** Work that is asked for again and again: once at a time, and once more for all that ask meanwhile. */
export class Again {
  private isRunning = false
  private isWanted = false

  constructor(private readonly work: () => Promise<void>) {}

  run(): void {
    this.isWanted = true
    if (this.isRunning) return
    this.isRunning = true
    void this.goOn()
      .catch(orNothing)
      .finally(() => {
        this.isRunning = false
      })
  }

  private async goOn(): Promise<void> {
    while (this.isWanted) {
      this.isWanted = false
      await this.work()
    }
  }
}
