import { DataType } from 'node-opcua'
import { plainClient, type Client } from '../support/outlet'
import type { Api } from './api'
import { pause, type Chance } from './chance'
import type { Plant } from './plant'

/** A value that was sent to the plant, and what its writer was told. */
interface Sent {
  value: number
  toldAt: number
  told: 'done' | 'failed' | 'in doubt'
}

/** Refusals after which nothing may reach the plant any more. */
const definite = /^(write\.(value|expired|queue-full|superseded|not-writable)|link\.off)$/

/** Writes rising values to one register, each once, and keeps account of what it was told. */
export abstract class Writer {
  readonly sent: Sent[] = []
  private value = 5000

  constructor(
    readonly path: string,
    readonly register: number,
    private chance: Chance,
  ) {}

  protected abstract write(value: number): Promise<Sent['told']>

  async run(isOver: () => boolean) {
    while (!isOver()) {
      const value = ++this.value
      const told = await this.write(value)
      this.sent.push({ value, toldAt: Date.now(), told })
      await pause(this.chance.whole(30, 300))
    }
    await this.close()
  }

  protected close(): Promise<void> {
    return Promise.resolve()
  }

  count(told: Sent['told']): number {
    return this.sent.filter((one) => one.told === told).length
  }

  /** What the plant got, held against what the writer was told. */
  problems(plant: Plant): string[] {
    const mine = plant.writes.filter(({ register }) => register === this.register)
    return this.sent.flatMap(({ value, told, toldAt }) => {
      const arrivals = mine.filter((write) => write.value === value)
      const text = `${this.path}: ${value}, told ${told},`
      if (told === 'done' && arrivals.length === 0) return [`${text} never reached the plant`]
      if (told === 'failed' && arrivals.length > 0) return [`${text} reached the plant all the same`]
      if (arrivals.some(({ at }) => at > toldAt + lateMs)) return [`${text} reached the plant ${arrivals.at(-1)!.at - toldAt} ms later`]
      return []
    })
  }
}

/** An answer may be lost while the value is on its way; later than this it must not arrive. */
const lateMs = 15_000

export class ApiWriter extends Writer {
  constructor(
    private api: Api,
    private tagId: number,
    ...rest: [path: string, register: number, chance: Chance]
  ) {
    super(...rest)
  }

  protected async write(value: number): Promise<Sent['told']> {
    const answer = await this.api.call('PUT', `/tags/${this.tagId}/value`, { value })
    if (answer === 'lost') return 'in doubt'
    if (answer.status === 200) return 'done'
    return definite.test(answer.body.fault?.code ?? '') ? 'failed' : 'in doubt'
  }
}

const answerMs = 8000

/** A control system that writes over the outlet, and dials again whenever that breaks. */
export class ClientWriter extends Writer {
  private client: Client | null = null

  constructor(
    private port: number,
    ...rest: [path: string, register: number, chance: Chance]
  ) {
    super(...rest)
  }

  protected async write(value: number): Promise<Sent['told']> {
    try {
      this.client ??= await plainClient(this.port, 'Soak writer')
      const late = pause(answerMs).then(() => 'late')
      const status = await Promise.race([this.client.write('urn:keen-conduit:tags', this.path, value, DataType.UInt16), late])
      if (status === 'late') await this.close()
      return status === 'Good' ? 'done' : 'in doubt'
    } catch {
      await this.close()
      return 'in doubt'
    }
  }

  protected override async close() {
    const { client } = this
    this.client = null
    await Promise.race([client?.client.disconnect().catch(() => {}), pause(2000)])
  }
}
