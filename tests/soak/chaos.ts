import type { Site } from '../support/site'
import { pause, type Chance } from './chance'
import type { Plant } from './plant'

/** Processes that are killed and stopped; the one that brings them back is the one that does it. */
const victims = ['web', 'engine', 'database', 'stand-ins'] as const

/** Kills and stops processes, and breaks the way to the plant, at random. */
export class Chaos {
  readonly done: Record<string, number> = {}

  constructor(
    private site: Pick<Site, 'pids'>,
    private plant: Plant,
    private chance: Chance,
    /** The longest that a process is stopped; from 15 s on it is ended meanwhile. */
    private longestStopMs: number,
  ) {}

  async run(isOver: () => boolean) {
    while (!isOver()) {
      await pause(this.chance.whole(1500, 5000))
      if (!isOver()) await this.doOne()
    }
  }

  private async doOne() {
    const victim = this.chance.oneOf(victims)
    switch (this.chance.oneOf(['kill', 'kill', 'stop', 'cut', 'silence'] as const)) {
      case 'kill':
        return this.signal(victim, 'SIGKILL', 'killed')
      case 'stop':
        return this.stop(victim)
      case 'cut':
        this.count('way to the plant cut')
        return this.plant.cut()
      case 'silence':
        this.count('plant silent')
        return this.plant.silence(this.chance.whole(500, 4000))
    }
  }

  private async stop(victim: string) {
    const pid = this.site.pids()[victim]
    this.signal(victim, 'SIGSTOP', 'stopped')
    await pause(this.chance.whole(500, this.longestStopMs))
    if (pid !== undefined && this.site.pids()[victim] === pid) process.kill(pid, 'SIGCONT')
  }

  private signal(victim: string, signal: NodeJS.Signals, what: string) {
    const pid = this.site.pids()[victim]
    if (pid === undefined) return
    this.count(`${victim} ${what}`)
    try {
      process.kill(pid, signal)
    } catch {
      // it ended by itself just now
    }
  }

  private count(what: string) {
    this.done[what] = (this.done[what] ?? 0) + 1
  }
}
