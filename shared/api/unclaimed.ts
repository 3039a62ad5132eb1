import { z } from 'zod'
import { unclaimedTopic } from '../arrivals'
import { pageOf } from './lists'

/** Messages that nobody claims, by topic, as links and outlets list them. */
export const unclaimedPage = pageOf(unclaimedTopic).extend({
  gaveWay: z.int().describe('Topics that made room for others: there are more than are remembered.'),
})
