import type { EventHandlerRequest, H3Event } from 'h3'
import { defineEventHandler, getQuery, getRouterParams } from 'h3'
import { z } from 'zod'
import { bodySizes, isFile, type AnswerOf, type Operation } from '#shared/api/operation'
import { requireRole } from '../access/access'
import { readBytes, readJson } from './body'
import { checked } from './checked'
import { answerOrRefuse } from './refusal'

/** What was asked, read and checked by the operation's contracts. */
export interface Asked<O extends Operation> {
  event: H3Event<EventHandlerRequest>
  params: z.output<O['params']>
  query: z.output<z.ZodObject<NonNullable<O['query']>>>
  body: z.output<NonNullable<O['body']>>
}

/** What a handler gives: an answer, or, where it comes in lines or as a file, what carries it. */
type GivenBack<O extends Operation> =
  NonNullable<O['as']> extends 'lines'
    ? ReadableStream
    : NonNullable<O['as']> extends 'parquet' | 'zip' | 'pdf'
      ? Uint8Array
      : NonNullable<O['as']> extends 'csv' | 'text'
        ? AnswerOf<O> | ReadableStream
        : AnswerOf<O>

/** The route of an operation: for those who have the role, with what its contracts let through. */
export const defineRoute = <O extends Operation>(operation: O, handle: (asked: Asked<O>) => Promise<GivenBack<O>> | GivenBack<O>) => {
  const read = readerOf(operation)
  return defineEventHandler((event) =>
    answerOrRefuse(event, async () => {
      if (operation.needs !== 'anyone') await requireRole(event, operation.needs)
      return handle(await read(event))
    }),
  )
}

const readerOf = <O extends Operation>({ params, query = {}, body, size = 'usual' }: O) => {
  // a parameter that means nothing here is refused, for it may be a misspelt one
  const read = isFile(body) ? readBytes : readJson
  const queryContract = z.strictObject(query)
  return async (event: H3Event<EventHandlerRequest>): Promise<Asked<O>> => ({
    event,
    params: checked(getRouterParams(event), params) as Asked<O>['params'],
    query: checked(getQuery(event), queryContract) as Asked<O>['query'],
    body: (body && checked(await read(event, bodySizes[size]), body)) as Asked<O>['body'],
  })
}
