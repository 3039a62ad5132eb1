import { execFile } from 'node:child_process'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { describe, expect, it } from 'vitest'

/** The nodes of the standard, loaded with turns for others. */

interface Loaded {
  turns: number
  nodes: number
  dump: string
}

const load = async (how: 'in one go' | 'in turns'): Promise<Loaded> => {
  const script = join(import.meta.dirname, '../support/spaceDump.ts')
  const { stdout } = await promisify(execFile)(process.execPath, ['--import', 'tsx', script, how], { maxBuffer: 1 << 24 })
  return JSON.parse(stdout.slice(stdout.lastIndexOf('{"turns"'))) as Loaded
}

describe('loading in turns', () => {
  it('brings the same nodes, types and references as the package by itself, and others get their turn meanwhile', async () => {
    const [plain, ours] = [await load('in one go'), await load('in turns')]
    expect(plain.nodes).toBeGreaterThan(5000)
    expect({ nodes: ours.nodes, dump: ours.dump }).toEqual({ nodes: plain.nodes, dump: plain.dump })
    expect(ours.turns).toBeGreaterThan(plain.turns + 10)
  }, 120_000)
})
