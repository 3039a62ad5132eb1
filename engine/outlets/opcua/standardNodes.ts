import { createReadStream } from 'node:fs'
import { nodesets } from 'node-opcua'
import { loadInTurns } from '../../opcua/loadingInTurns'
import { nextTurn } from '#pacing/turns'

loadInTurns()

/** So much of the file is worked off in one go: a few milliseconds. */
const bytesAtOnce = 8 * 1024

/**
 * The nodes of the standard, in pieces: read whole, the package would work them off in one go, and the plant would
 * wait for a second or more while an outlet opens.
 */
export const standardNodes = {
  name: nodesets.standard,
  source: async function* () {
    for await (const piece of createReadStream(nodesets.standard, { encoding: 'utf8', highWaterMark: bytesAtOnce })) {
      yield piece as string
      await nextTurn()
    }
  },
}
