import { tellServiceManager } from './serviceManager.mjs'

/**
 * Runs a stack until it is told to stop.
 * @param {{ start(): Promise<void>, stop(): Promise<void>, isSound: boolean }} stack @param {() => void} ready
 */
export const runInForeground = async (stack, ready) => {
  /** @type {(value?: unknown) => void} */
  let toldToStop = () => {}
  const stopped = new Promise((resolve) => (toldToStop = resolve))
  process.once('SIGINT', toldToStop)
  process.once('SIGTERM', toldToStop)
  try {
    await Promise.race([
      stack.start().then(() => {
        tellServiceManager(() => stack.isSound)
        ready()
      }),
      stopped,
    ])
    await stopped
  } finally {
    await stack.stop()
  }
}
