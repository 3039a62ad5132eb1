import { z } from 'zod'
import { apiToken, newApiToken, newPerson, passwordChange, personChange, personContract, signIn, whoContract } from '../people'
import { listQuery, listWhole, pageOf } from './lists'
import { operation } from './operation'

const group = 'People and tokens'
const session = 'Session'
const removed = z.object({ removed: z.int() })

export const listPeople = operation('GET /people', {
  group,
  needs: 'administer',
  does: 'Everybody who may sign in.',
  query: listQuery(['name', 'role', 'seenAt', 'madeAt', 'id'], listWhole),
  answer: pageOf(personContract),
})

export const letIn = operation('POST /people', {
  group,
  needs: 'administer',
  does: 'Lets somebody in, with a password that is told once and has to be changed at the first sign-in.',
  body: newPerson,
  example: { name: 'Berthing master', role: 'operate' },
  answer: z.object({ person: personContract, password: z.string() }),
  faults: ['entry.taken'],
})

export const changePerson = operation('PUT /people/{id}', {
  group,
  needs: 'administer',
  does: 'Gives somebody another role, or shuts them out; who is shut out is out at once.',
  body: personChange,
  example: { role: 'look', on: true },
  answer: personContract,
  faults: ['access.last-administrator'],
})

export const removePerson = operation('DELETE /people/{id}', {
  group,
  needs: 'administer',
  does: 'Removes somebody; their sessions end.',
  answer: removed,
  faults: ['access.last-administrator'],
})

export const givePassword = operation('POST /people/{id}/password', {
  group,
  needs: 'administer',
  does: 'A new password for somebody who lost theirs; told once, to be changed at the next sign-in.',
  answer: z.object({ password: z.string() }),
})

export const listTokens = operation('GET /tokens', {
  group,
  needs: 'administer',
  does: 'The tokens of programs; what they are is told once only.',
  query: listQuery(['name', 'role', 'expiresAt', 'usedAt', 'madeAt', 'id'], listWhole),
  answer: pageOf(apiToken),
})

export const makeToken = operation('POST /tokens', {
  group,
  needs: 'administer',
  does: 'Makes a token for a program, with a role and an end; it is told once.',
  body: newApiToken,
  example: { name: 'Reporting', role: 'look', days: 365 },
  answer: z.object({ token: z.string(), shown: apiToken }),
})

export const takeTokenBack = operation('DELETE /tokens/{id}', {
  group,
  needs: 'administer',
  does: 'Takes a token back; whoever carries it is a stranger from now on.',
  answer: removed,
})

export const whoAmI = operation('GET /session', {
  group: session,
  needs: 'anyone',
  does: 'Who is signed in.',
  answer: whoContract,
  faults: ['access.sign-in'],
})

export const startSession = operation('POST /session', {
  group: session,
  needs: 'anyone',
  does: 'Signs in by name and password; the session is a cookie that scripts cannot read.',
  body: signIn,
  example: { name: 'harbourmaster', password: '…' },
  size: 'small',
  answer: whoContract,
  faults: ['access.wrong', 'access.wait'],
})

export const endSession = operation('DELETE /session', {
  group: session,
  needs: 'anyone',
  does: 'Signs out: the session is gone, wherever its cookie may still be.',
  answer: z.object({ signedIn: z.literal(false) }),
})

export const changePassword = operation('PUT /session/password', {
  group: session,
  needs: 'anyone',
  does: 'Changes one’s own password; every other session of the same person ends.',
  body: passwordChange,
  example: { present: '…', next: '… and longer' },
  size: 'small',
  answer: whoContract,
  faults: ['access.sign-in', 'access.wrong', 'access.wait'],
})
