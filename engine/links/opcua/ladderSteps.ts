import { checkSteps } from '../checkSteps'

/** From the name to the first value, in the order in which they are climbed. */
export const ladderSteps = checkSteps({
  name: 'Name',
  port: 'Port',
  hello: 'Hello',
  offers: 'Offered ways in',
  theirs: 'Its certificate',
  ours: 'Our certificate',
  signin: 'Sign in',
  value: 'First value',
})
