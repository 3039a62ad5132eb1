import { createRequire } from 'node:module'

/** Another maker’s client of controllers (ISO-on-TCP), as far as it is used here. It brings no types. */
interface ForeignClient {
  initiateConnection(to: { host: string; port: number; rack: number; slot: number; timeout: number }, done: (error?: Error) => void): void
  addItems(items: string[]): void
  readAllItems(done: (isBad: boolean, values: Record<string, unknown>) => void): void
  writeItems(items: string[], values: unknown[], done: (isBad: boolean) => void): number
  dropConnection(done: () => void): void
}

const Client = createRequire(import.meta.url)('nodes7') as new (options: { silent: boolean; debug: boolean }) => ForeignClient

/** A connection of that client. Rejects where it is refused. */
export const foreignClient = async (port: number, { rack = 0, slot = 2 } = {}) => {
  const client = new Client({ silent: true, debug: false })
  await new Promise<void>((resolve, reject) =>
    client.initiateConnection({ host: '127.0.0.1', port, rack, slot, timeout: 1000 }, (error) => (error ? reject(error) : resolve())),
  )
  return {
    read: (items: string[]) =>
      new Promise<Record<string, unknown>>((resolve, reject) => {
        client.addItems(items)
        client.readAllItems((isBad, values) => (isBad ? reject(new Error(JSON.stringify(values))) : resolve(values)))
      }),
    write: (item: string, value: unknown) =>
      new Promise<void>((resolve, reject) =>
        client.writeItems([item], [value], (isBad) => (isBad ? reject(new Error(`${item} was not taken`)) : resolve())),
      ),
    close: () => new Promise<void>((resolve) => client.dropConnection(resolve)),
  }
}
