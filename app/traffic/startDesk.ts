import { createBirpc } from 'birpc'
import type { DeskCalls, RemoteDesk } from './remote'

/** The desk in a worker of its own, so that the page never waits for it. */
export const startDesk = (): { desk: RemoteDesk; close(): void } => {
  const worker = new Worker(new URL('../workers/traffic.ts', import.meta.url), { type: 'module' })
  const desk = createBirpc<DeskCalls>(
    {},
    {
      post: (message) => worker.postMessage(message),
      on: (hear) => worker.addEventListener('message', ({ data }) => void hear(data)),
      timeout: 120_000,
    },
  )
  return { desk: desk as unknown as RemoteDesk, close: () => worker.terminate() }
}
