import { appendFileSync } from 'node:fs'

/** Keeps what nobody caught while tests ran, a line each: no test fails of that, and the run does. */
export default class Unhandled {
  /** @param {readonly unknown[]} _modules @param {readonly { name?: string, message?: string, stack?: string }[]} errors */
  onTestRunEnd(_modules, errors) {
    const file = process.env.CONDUIT_UNHANDLED
    if (!file) return
    for (const { name = 'Error', message = '', stack = '' } of errors) {
      const [from = ''] = stack.split('\n').filter((line) => line.includes('at ') || line.includes('/'))
      appendFileSync(file, `${name}: ${message.split('\n')[0]} ${from.trim()}\n`)
    }
  }
}
