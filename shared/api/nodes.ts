import { z } from 'zod'
import { idField } from '#core/contracts/fields'
import { nodeCode, nodeCodeDraft, nodeDoor, nodeDraft, savedNode } from '../nodes'
import { operation } from './operation'
import { removed } from './removed'

const group = 'Nodes'
const example: z.input<typeof nodeDraft> = { name: 'Outer quay', note: 'Cabinet of the cable arms' }

export const listNodes = operation('GET /nodes', {
  group,
  needs: 'look',
  does: 'Machines elsewhere that run links of this site, by name. How each is, the status tells.',
  answer: z.array(savedNode),
})

export const makeNode = operation('POST /nodes', {
  group,
  needs: 'configure',
  does: 'Makes a node. Links can be placed on it at once; a machine becomes it by a code. One that stands by shares the database, and leads the site when the machine that leads it is gone.',
  body: nodeDraft,
  example,
  answer: savedNode,
  faults: ['entry.taken'],
})

export const changeNode = operation('PUT /nodes/{id}', {
  group,
  needs: 'configure',
  does: 'Changes a node, unless somebody else changed it since. Whether it stands by is said before a machine came in.',
  body: z.object({ revision: idField('A revision'), node: nodeDraft }),
  example: { revision: 4, node: example },
  answer: savedNode,
  faults: ['entry.taken', 'entry.edited', 'node.is-one'],
})

export const removeNode = operation('DELETE /nodes/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a node: its machine is not let in any more. Links have to be placed elsewhere before.',
  answer: removed,
  faults: ['node.has-things', 'node.leads'],
})

export const listNodeCodes = operation('GET /nodes/codes', {
  group,
  needs: 'configure',
  does: 'The codes for nodes that are open.',
  answer: z.array(nodeCode),
  engine: true,
})

export const makeNodeCode = operation('POST /nodes/{id}/code', {
  group,
  needs: 'configure',
  does: 'Makes a code by which a machine becomes this node: for one use, and for a while. One that was open for it ends. A machine that was this node before is not let in any more once another one used it.',
  body: nodeCodeDraft,
  example: { minutes: 60 },
  answer: nodeCode,
  engine: true,
  faults: ['entry.gone', 'node.no-door', 'node.alone'],
})

export const withdrawNodeCode = operation('DELETE /nodes/{id}/code', {
  group,
  needs: 'configure',
  does: 'Withdraws the code of a node: nobody comes in by it any more.',
  answer: z.object({ withdrawn: z.int() }),
  engine: true,
  faults: ['entry.gone'],
})

export const leadNode = operation('POST /nodes/{id}/lead', {
  group,
  needs: 'administer',
  does: 'Hands the lead of the site over to another machine that stands by: what this one runs ends there, and begins there within a second or two.',
  answer: z.object({ asked: z.int() }),
  engine: true,
  faults: ['node.stands-not-by'],
})

const doorAnswer = z.object({ door: nodeDoor.nullable().describe('Null: nodes come in nowhere.') })

export const showNodeDoor = operation('GET /nodes/door', {
  group,
  needs: 'look',
  does: 'Where nodes come in.',
  answer: doorAnswer,
})

export const setNodeDoor = operation('PUT /nodes/door', {
  group,
  needs: 'administer',
  does: 'Says where nodes come in: a port of this machine that listens for them, and how they reach it from outside. Without one nobody comes in.',
  body: doorAnswer,
  example: { door: { host: 'port.example', port: 8471, interface: '0.0.0.0' } },
  answer: doorAnswer,
})
