import { createWriteStream, existsSync, openSync, renameSync, statSync } from 'node:fs'

const largest = 10 * 1024 * 1024
/** After a disk took nothing, it is tried again so much later. */
const againMs = 10_000

/**
 * Keeps at most two files of what a process says. What the disk does not take is lost: nobody ends because of a log.
 * @param {string} path @param {{ largest?: number, againMs?: number }} [limits]
 */
export const rotatingLog = (path, limits = {}) => {
  const most = limits.largest ?? largest
  const pauseMs = limits.againMs ?? againMs
  let size = existsSync(path) ? statSync(path).size : 0
  let restsUntil = 0
  /** @type {import('node:fs').WriteStream | null} */
  let stream = null
  const rest = () => {
    stream = null
    restsUntil = performance.now() + pauseMs
  }
  /** At once, so that a file that is turned is the one that is written to. */
  const open = () => {
    try {
      const opened = createWriteStream(path, { fd: openSync(path, 'a') })
      opened.on('error', () => {
        opened.destroy()
        if (stream === opened) rest()
      })
      stream = opened
    } catch {
      rest()
    }
  }
  const turn = () => {
    stream?.end()
    stream = null
    try {
      renameSync(path, `${path}.1`)
      size = 0
    } catch {
      // it goes on in the same file until it can be turned
    }
  }
  return {
    /** @param {Buffer} chunk */
    write(chunk) {
      if (size > most) turn()
      if (!stream && performance.now() < restsUntil) return
      if (!stream) open()
      size += chunk.length
      stream?.write(chunk)
    },
    end: () => void stream?.end(),
  }
}
