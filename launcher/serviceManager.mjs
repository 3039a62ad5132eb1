import { spawn } from 'node:child_process'

/** Several times within what the unit allows. */
const shareOfWatchdog = 3
const leastMs = 1000

/**
 * Tells the service manager, where there is one, that all runs, and from then on that it still does.
 * @param {() => boolean} isSound
 */
export const tellServiceManager = (isSound) => {
  if (!process.env.NOTIFY_SOCKET) return
  notify('READY=1')
  const allowed = Number(process.env.WATCHDOG_USEC) / 1000
  if (!(allowed > 0)) return
  setInterval(() => isSound() && notify('WATCHDOG=1'), Math.max(leastMs, allowed / shareOfWatchdog)).unref()
}

/** @param {string} state */
const notify = (state) => {
  const program = spawn('systemd-notify', [state], { stdio: 'ignore' })
  // without it the manager goes by what it sees of the process itself
  program.on('error', () => {})
}
