import { checkSteps } from '../checkSteps'

const rungs = {
  offers: 'Offered ways in',
  theirs: 'Its certificate',
  ours: 'Our certificate',
  signin: 'Sign in',
  value: 'First value',
}

/** What both ways to a server have in common. */
export type Rung = keyof typeof rungs

/** From the name to the first value, in the order in which they are climbed. */
export const ladderSteps = checkSteps({ name: 'Name', port: 'Port', hello: 'Hello', ...rungs })

/** From our own door, where the server opens the connection. */
export const awaitedSteps = checkSteps({ door: 'Our door', dialled: 'The server dials', ...rungs })
