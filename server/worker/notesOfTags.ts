import type { TagNote } from '#shared/notes'
import { findingsNow } from './findings'
import { tagWorker } from './tagWorker'

/** What is to be said of these tags, by their ids; waits until the worker has read what changed. */
export const notesOfTags = async (ids: number[]): Promise<Record<number, TagNote[]>> => {
  const findings = await findingsNow()
  return tagWorker.call((worker) => worker.notesOf(ids, findings))
}
