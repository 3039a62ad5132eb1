import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { fault } from '#core/faults/catalogue'
import type { ReportTexts } from '#core/checks/report'
import { Turnstile } from '#db/turnstile'
import { Refusal } from '../answers/refusal'

/** A sheet of the most points with evidence takes half a minute. */
const longestMs = 180_000

const turnstile = new Turnstile()

/** Prints a report as PDF in a thread of its own, one after the other. */
export const printed = (texts: ReportTexts): Promise<Uint8Array> => turnstile.pass(() => inThread(texts))

const inThread = (texts: ReportTexts): Promise<Uint8Array> => {
  const script = join(process.env.CONDUIT_BUNDLES ?? '', 'printer.mjs')
  // what watches over the process is not for its threads
  const worker = new Worker(script, { execArgv: [], workerData: { texts, madeAt: Date.now() } })
  const failed = (problem: string) => new Refusal(fault('checks.not-printed', { problem }))
  const done = new Promise<Uint8Array>((resolve, reject) => {
    const timer = setTimeout(() => reject(failed('it took too long')), longestMs)
    timer.unref()
    worker.once('message', resolve)
    worker.once('error', (error) => reject(failed((error as Error).message)))
    worker.once('exit', (code) => {
      clearTimeout(timer)
      reject(failed(`it ended with ${code}`))
    })
  })
  return done.finally(() => worker.terminate())
}
