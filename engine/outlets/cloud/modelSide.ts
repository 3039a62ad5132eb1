import { createHash } from 'node:crypto'
import { isOurs, planBetween, planText, type PlannedStep } from '#core/cloud/plan'
import type { PlatformModel, StepResult } from '#core/cloud/entries'
import type { WantedModel } from '#core/cloud/wanted'
import { fault, type Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import type { CloudPlatformSettings } from '#shared/outlets/cloudPlatform'
import type { CloudPlatformDetails, ModelPlan } from '#shared/outlets/cloudPlatformStatus'
import { Backoff } from '#pacing/backoff'
import { PlatformFailure, type Platform } from './platform'

interface Around {
  platform(): Platform
  wanted(): WantedModel
  settings(): CloudPlatformSettings['model']
  caution(why: Fault): void
  note(text: string): void
}

const settleMs = 1000
/** The platform may rename or remove things by itself; so often it is looked whether it did. */
const lookEveryMs = 600_000
const stepsAtOnce = 200
const mostShown = 500

/** Keeps the model over there as it is here: reads it, compares, and changes it when somebody says so or when it is to follow. */
export class ModelSide {
  private there: PlatformModel | null = null
  private readAt: number | null = null
  private plan: PlannedStep[] = []
  private refused: { name: string; why: string }[] = []
  private why: Fault | null = null
  private isChanging = false
  private timer: NodeJS.Timeout | null = null
  private work: Promise<unknown> = Promise.resolve()
  private backoff = new Backoff(2000, 60_000)
  private stopping = new AbortController()
  /** What was done by itself and left something: it is not done over and over. */
  private triedText = ''

  constructor(private around: Around) {
    this.lookIn(0)
  }

  /** The model here, or how the platform is reached, may be another one. */
  changed() {
    this.triedText = ''
    if (this.around.settings().on) this.lookIn(settleMs)
  }

  /** Reads the model over there and compares. */
  look(): Promise<ModelPlan> {
    return this.enqueue(async () => {
      await this.read()
      return this.shown()
    })
  }

  /** @param seen by what the plan is known that somebody saw; rejects with a Fault where it is another one by now */
  apply(seen: string, removing: boolean): Promise<ModelPlan> {
    return this.enqueue(async () => {
      await this.read()
      if (this.why) throw this.why as unknown as Error
      if (this.digest() !== seen) throw fault('cloud.plan-changed', {}) as unknown as Error
      await this.carryOut(this.plan.filter(({ how }) => removing || how !== 'remove'))
      return this.shown()
    })
  }

  shown(): ModelPlan {
    const { classes, equipment } = this.around.settings().on ? this.around.wanted() : { classes: [], equipment: [] }
    return {
      ...{ state: this.state(), readAt: this.readAt, digest: this.digest() },
      there: { classes: this.there?.classes.length ?? 0, equipment: this.there?.equipment.length ?? 0 },
      here: { classes: classes.length, equipment: equipment.length },
      steps: this.plan.slice(0, mostShown).map(({ what, how, name, differences, problem }) => ({ what, how, name, differences, problem })),
      ...{ stepCount: this.plan.length, removals: this.plan.filter(({ how }) => how === 'remove').length },
      ...{
        hindered: this.plan.filter(({ problem }) => problem !== null).length,
        refused: this.refused.slice(0, mostShown),
        fault: this.why,
      },
    }
  }

  status(): CloudPlatformDetails['model'] {
    return {
      ...{ state: this.state(), steps: this.plan.length, hindered: this.plan.filter(({ problem }) => problem !== null).length },
      ...{ refused: this.refused.length, classes: this.there?.classes.length ?? 0, equipment: this.there?.equipment.length ?? 0 },
    }
  }

  get fault() {
    return this.why
  }

  async close() {
    if (this.timer) clearTimeout(this.timer)
    this.stopping.abort()
    await this.work
  }

  private state(): CloudPlatformDetails['model']['state'] {
    if (!this.around.settings().on) return 'off'
    if (this.isChanging) return 'being changed'
    if (!this.there) return 'not read'
    return this.plan.length === 0 ? 'alike' : 'differs'
  }

  private digest() {
    return createHash('sha256').update(planText(this.plan)).digest('hex').slice(0, 24)
  }

  private lookIn(ms: number) {
    if (this.stopping.signal.aborted) return
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.enqueue(() => this.lookAndFollow()).catch(() => {}), ms)
    this.timer.unref()
  }

  private enqueue<T>(work: () => Promise<T>): Promise<T> {
    const next = this.work.then(work)
    this.work = next.catch(() => {})
    return next
  }

  private async lookAndFollow() {
    if (!this.around.settings().on) return
    await this.read()
    if (this.why) return this.lookIn(this.backoff.next())
    this.backoff.reset()
    await this.follow()
    this.lookIn(lookEveryMs)
  }

  /** What removes something waits for a person, whatever else follows by itself. */
  private async follow() {
    const isKnownThere = [...(this.there?.classes ?? []), ...(this.there?.equipment ?? [])].some(({ key }) => isOurs(key))
    const steps = this.plan.filter(({ how, problem }) => how !== 'remove' && problem === null)
    const text = planText(steps)
    const { follow } = this.around.settings()
    const isToFollow = follow === 'at once' || (follow === 'after the first' && isKnownThere)
    if (!isToFollow || steps.length === 0 || text === this.triedText) return
    this.triedText = text
    await this.carryOut(steps).catch((why: unknown) => this.failed(why))
  }

  private async read() {
    try {
      this.there = await this.around.platform().model(this.stopping.signal)
      this.readAt = Date.now()
      this.why = null
      this.compare()
    } catch (error) {
      this.failed(error)
    }
  }

  private compare() {
    this.plan = this.there ? planBetween(this.around.wanted(), this.there, this.around.settings().names) : []
  }

  private failed(error: unknown) {
    const why = error instanceof PlatformFailure ? error.why : fault('ours.unexpected', { problem: (error as Error).message })
    if (this.stopping.signal.aborted) return
    if (this.why?.code !== why.code) this.around.caution(why)
    this.why = why
  }

  private async carryOut(steps: readonly PlannedStep[]) {
    const todo = steps.filter(({ problem }) => problem === null)
    this.isChanging = true
    this.refused = []
    try {
      for (let at = 0; at < todo.length; at += stepsAtOnce) {
        const part = todo.slice(at, at + stepsAtOnce)
        const results = await this.around.platform().apply(
          part.map(({ step }) => step),
          this.stopping.signal,
        )
        part.forEach((one, i) => this.noteResult(one, results[i]))
      }
      this.around.note(`Changed the model at the platform: ${counted(todo.length - this.refused.length, 'step')}.`)
    } finally {
      this.isChanging = false
      await this.read()
    }
    const [first] = this.refused
    if (first) this.around.caution(fault('cloud.model-refused', { count: this.refused.length, ...first }))
  }

  private noteResult({ what, name }: PlannedStep, result: StepResult | undefined) {
    if (result?.ok) return
    this.refused.push({ name: `${what} ${name}`, why: result ? result.why || 'it does not say why' : 'it did not answer this step' })
  }
}
