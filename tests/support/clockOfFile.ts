import { readFileSync } from 'node:fs'
import { clockIsRight, shiftClock } from './shiftClock'

/** Sets the clock of a process as a file says, in milliseconds ahead of the right one. */
const file = process.env.CONDUIT_TEST_CLOCK
let now = 0

const look = () => {
  const ahead = Number(readFileSync(file!, 'utf8').trim() || 0)
  if (ahead === now) return
  clockIsRight()
  now = ahead
  if (ahead !== 0) shiftClock(ahead)
}
if (file) {
  look()
  setInterval(look, 50).unref()
}
