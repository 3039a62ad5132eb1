import { WebSocket } from 'ws'
import { quality } from '#core/tags/quality'
import type { LiveMessage } from '#shared/rpc'
import { plainClient, type Client } from '../support/outlet'
import { pause } from './chance'

/** What is looked at: a value that is told as good must be one that the plant held just now. */
export interface Watched {
  path: string
  tagId: number
  isTrue(value: unknown, at: number): boolean
}

/** Somebody who looks at values and holds them against the plant. */
abstract class Reader {
  good = 0
  notGood = 0
  readonly problems: string[] = []

  protected seen(watched: Watched, value: unknown, isGood: boolean, how: string) {
    if (!isGood) return void this.notGood++
    this.good++
    const at = Date.now()
    if (!watched.isTrue(value, at) && this.problems.length < 50)
      this.problems.push(`${watched.path} was good with ${String(value)}, ${how}`)
  }
}

/** A control system that reads over the outlet. */
export class ClientReader extends Reader {
  constructor(
    private port: number,
    private watched: readonly Watched[],
  ) {
    super()
  }

  async run(isOver: () => boolean) {
    let client: Client | null = null
    while (!isOver()) {
      try {
        client ??= await plainClient(this.port, 'Soak reader')
        await this.look(client)
        await pause(250)
      } catch {
        await Promise.race([client?.client.disconnect().catch(() => {}), pause(2000)])
        client = null
        await pause(500)
      }
    }
    await Promise.race([client?.client.disconnect().catch(() => {}), pause(2000)])
  }

  private async look(client: Client) {
    for (const watched of this.watched) {
      const { value, statusCode } = await within(client.read('urn:keen-conduit:tags', watched.path))
      this.seen(watched, value.value, statusCode.isGood(), 'read by a client')
    }
  }
}

const answerMs = 8000
const within = <T>(work: Promise<T>): Promise<T> => Promise.race([work, pause(answerMs).then(() => Promise.reject(new Error('no answer')))])

/** A page that shows values. */
export class PageReader extends Reader {
  constructor(
    private base: string,
    private cookie: string,
    private watched: readonly Watched[],
  ) {
    super()
  }

  async run(isOver: () => boolean) {
    while (!isOver()) {
      await this.sit(isOver)
      await pause(500)
    }
  }

  private sit(isOver: () => boolean): Promise<void> {
    const socket = new WebSocket(`${this.base.replace('http', 'ws')}/live`, { headers: { cookie: this.cookie } })
    const timer = setInterval(() => isOver() && socket.close(), 200)
    socket.on('open', () => socket.send(JSON.stringify({ say: 'watch', tags: this.watched.map(({ tagId }) => tagId), origin: null })))
    socket.on('message', (data: Buffer) => this.take(socket, JSON.parse(data.toString()) as LiveMessage))
    socket.on('error', () => {})
    return new Promise((resolve) =>
      socket.on('close', () => {
        clearInterval(timer)
        resolve()
      }),
    )
  }

  private take(socket: WebSocket, message: LiveMessage) {
    if (message.say !== 'values') return
    for (const { id, value, quality: code } of message.values) {
      const watched = this.watched.find(({ tagId }) => tagId === id)
      if (watched) this.seen(watched, value, code === quality.Good, 'shown on a page')
    }
    socket.send(JSON.stringify({ say: 'taken', batch: message.batch }))
  }
}
