import { parentPort, workerData } from 'node:worker_threads'
import type { ReportTexts } from '#core/checks/report'
import { reportPdf } from './reportPdf'

/** One report, in a thread of its own. */
const { texts, madeAt } = workerData as { texts: ReportTexts; madeAt: number }
parentPort!.postMessage(await reportPdf(texts, madeAt))
