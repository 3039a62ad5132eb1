import { expect } from 'vitest'
import type { NodeCode, SavedNode } from '#shared/nodes'
import { freePort } from '../../launcher/ports.mjs'
import type { Answer } from './describedCalls'
import { closeAll, type Closing } from './engineOn'
import { machineFor } from './farNodes'
import { until } from './until'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** What nodes are asked for, once each; the machine that becomes one is real. */
export const callNodes = async (call: Call) => {
  const door = { host: '127.0.0.1', interface: '127.0.0.1', port: await freePort(), outsidePort: null }
  expect((await call('PUT', '/nodes/door', { door })).body).toEqual({ door })
  expect((await call('GET', '/nodes/door')).body).toEqual({ door })
  const node = (await call('POST', '/nodes', { name: 'Described node', note: 'far quay' })).body as unknown as SavedNode
  const closing: Closing = []
  try {
    const code = (await call('POST', `/nodes/${node.id}/code`, { minutes: 5 })).body as unknown as NodeCode
    expect((await call('GET', '/nodes/codes')).body).toMatchObject([{ node: node.id, code: code.code }])
    await machineFor(closing, code.code)
    const status = await until(
      async () => (await call('GET', '/status')).body.nodes as { id: number; isConnected: boolean }[],
      (nodes) => nodes.some(({ id, isConnected }) => id === node.id && isConnected),
    )
    expect(status).toHaveLength(1)
    await call('POST', `/nodes/${node.id}/code`, { minutes: 5 })
    expect((await call('DELETE', `/nodes/${node.id}/code`)).body).toEqual({ withdrawn: node.id })
    const [known] = (await call('GET', '/nodes')).body as unknown as SavedNode[]
    expect(known!.key).toMatch(/^[0-9a-f]{64}$/)
    const renamed = { revision: known!.revision, node: { name: 'Described node, renamed', note: '' } }
    expect((await call('PUT', `/nodes/${node.id}`, renamed)).body).toMatchObject({ name: 'Described node, renamed', key: known!.key })
    expect((await call('DELETE', `/nodes/${node.id}`)).body).toMatchObject({ removed: node.id })
  } finally {
    await closeAll(closing)
    await call('PUT', '/nodes/door', { door: null })
  }
}
