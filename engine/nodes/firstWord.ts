import type { WebSocket } from 'ws'

const waitMs = 15_000

/** What the far side says first, before either calls the other. Rejects where it says nothing in time, or nothing that can be understood. */
export const firstWord = (socket: WebSocket): Promise<unknown> =>
  new Promise((resolve, reject) => {
    const done = (act: () => void) => {
      clearTimeout(timer)
      socket.off('message', heard)
      socket.off('close', left)
      socket.off('error', failed)
      act()
    }
    const heard = (data: Buffer, isBinary: boolean) =>
      done(() => {
        try {
          if (isBinary) throw new Error('bytes before the first word')
          resolve(JSON.parse(data.toString()))
        } catch (error) {
          reject(error as Error)
        }
      })
    const left = () => done(() => reject(new Error('the connection was closed')))
    const failed = (error: Error) => done(() => reject(error))
    const timer = setTimeout(() => done(() => reject(new Error(`nothing was said within ${waitMs / 1000} s`))), waitMs)
    socket.on('message', heard)
    socket.on('close', left)
    socket.on('error', failed)
  })
