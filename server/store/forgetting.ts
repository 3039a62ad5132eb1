import { forgetRevisions } from '#db/forget'
import { database } from './database'

const everyMs = 3_600_000

/** Looks every hour which revisions are too old. @returns what ends it */
export const keepForgetting = (): (() => void) => {
  const timer = setInterval(
    () => void forgetRevisions(database()).catch((error: Error) => console.error(`Old revisions stay for now: ${error.message}`)),
    everyMs,
  )
  timer.unref()
  return () => clearInterval(timer)
}
