import { createBirpc } from 'birpc'
import { deskCalls, deskLimits } from '../traffic/remote'

/** Frames are read, matched and filtered here, a little at a time: what the page asks in between is answered. */

const sliceMs = 20
const restMs = 50
const { desk, calls } = deskCalls(deskLimits)
createBirpc(calls, {
  post: (message) => postMessage(message),
  on: (hear) => addEventListener('message', ({ data }) => void hear(data)),
})
const work = () => {
  const isMore = desk.work(sliceMs)
  setTimeout(work, isMore ? 0 : restMs)
}
work()
