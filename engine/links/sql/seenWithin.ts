import type { Duplex } from 'node:stream'
import pg from 'pg'

/** Inside of the package: the connection of a client, which tells when its stream begins to be encrypted. */
interface Inside {
  connection?: { stream: Duplex; once(event: 'sslconnect', heard: () => void): void }
}

/** Clients whose connections are shown as they are read, where they travel encrypted. */
export const seenWithin = (seen: (connection: Duplex) => void) =>
  class extends pg.Client {
    constructor(...given: ConstructorParameters<typeof pg.Client>) {
      super(...given)
      const { connection } = this as Inside
      connection?.once('sslconnect', () => seen(connection.stream))
    }
  }
