import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { createBirpc, type BirpcReturn } from 'birpc'
import { fault } from '#core/faults/catalogue'
import { Backoff } from '#pacing/backoff'
import { steadyNow } from '#pacing/clock'
import { Refusal } from '../answers/refusal'
import type { TagWorkerApi } from './main'

const longestCallMs = 20_000
const readyAgainMs = 60_000

type Notes = BirpcReturn<TagWorkerApi, object>

/** The worker that looks through all tags, started when somebody first asks; one that ends is started again, after a while. */
class TagWorker {
  private running: { worker: Worker; notes: Notes } | null = null
  private pauses = new Backoff(500, readyAgainMs)
  private notBefore = 0

  /** Asks it; without an answer in time it is refused. */
  async call<T>(work: (notes: Notes) => Promise<T>): Promise<T> {
    const { notes } = (this.running ??= this.start())
    const answer = await work(notes).catch((error: Error) => {
      throw new Refusal(fault('worker.away', { problem: error.message }))
    })
    this.pauses.reset()
    return answer
  }

  /** What it goes by is read before somebody waits for it. */
  warm() {
    void this.call((worker) => worker.noted([])).catch(() => {})
  }

  async close() {
    const { running } = this
    this.running = null
    await running?.worker.terminate()
  }

  private start() {
    const script = join(process.env.CONDUIT_BUNDLES ?? '', 'tagWorker.mjs')
    if (!existsSync(script)) throw new Refusal(fault('worker.away', { problem: `there is no ${script}` }))
    if (steadyNow() < this.notBefore) throw new Refusal(fault('worker.away', { problem: 'it ended a moment ago' }))
    // what watches over the process is not for its threads
    const worker = new Worker(script, { execArgv: [] })
    const notes = createBirpc<TagWorkerApi, object>(
      {},
      { post: (data) => worker.postMessage(data), on: (hear) => worker.on('message', hear), timeout: longestCallMs },
    )
    worker.unref()
    worker.on('error', (error) => console.error('tag worker', error))
    worker.on('exit', () => {
      notes.$close()
      if (this.running?.worker !== worker) return
      this.running = null
      this.notBefore = steadyNow() + this.pauses.next()
    })
    return { worker, notes }
  }
}

export const tagWorker = new TagWorker()
