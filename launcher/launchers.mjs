import { readFileSync } from 'node:fs'

/** Whether a process is one of ours that starts the others; a number may be another one’s by now. @param {number} pid */
export const isLauncher = (pid) => {
  try {
    return pid !== process.pid && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('launcher')
  } catch {
    return false
  }
}
