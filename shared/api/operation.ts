import { z } from 'zod'
import type { Role } from '#core/access/roles'
import type { FaultCode } from '#core/faults/catalogue'
import { numberText } from '#core/contracts/fields'

type Method = 'GET' | 'POST' | 'PUT' | 'DELETE'
type Names<Path extends string> = Path extends `${string}{${infer Name}}${infer Rest}` ? Name | Names<Rest> : never

/** How large a body may be, bytes. */
export const bodySizes = {
  /** Before anybody is known. */
  small: 4096,
  usual: 256 * 1024,
  /** Where lists of thousands come in. */
  many: 16 * 1024 * 1024,
  /** Files of people. */
  file: 48 * 1024 * 1024,
} as const

/** A body that is a file, byte by byte. */
export const fileBody = z.custom<Uint8Array<ArrayBuffer> | Blob>((value) => value instanceof Uint8Array || value instanceof Blob)
export const isFile = (body: z.ZodType | undefined): boolean => body === fileBody

type Way = 'json' | 'lines' | 'text' | 'csv' | 'yaml' | 'parquet' | 'zip' | 'pdf'

interface Parts<Q extends z.ZodRawShape, B extends z.ZodType, A extends z.ZodType, W extends Way> {
  /** Under which heading it stands. */
  group: string
  needs: Role | 'anyone'
  /** What it does, as a sentence. */
  does: string
  /** What follows the “?”. */
  query?: Q
  body?: B
  /** A body as somebody may send it. */
  example?: z.input<B>
  size?: keyof typeof bodySizes
  answer: A
  /** `lines`: the answer comes as one JSON line per part. */
  as?: W
  /** Whether the engine has to be there for it. */
  engine?: true
  /** Whether it asks the far side, and may be refused with whatever that does. */
  farSide?: true
  /** Refusals of its own, besides those that the above make possible. */
  faults?: FaultCode[]
}

/**
 * One operation of the HTTP API: who may ask for it, with what, and what comes back. Its route goes by it, pages
 * call it by it, and the description of the API is made from it.
 */
export interface Operation<
  Path extends string = string,
  Q extends z.ZodRawShape = z.ZodRawShape,
  B extends z.ZodType = z.ZodType,
  A extends z.ZodType = z.ZodType,
  W extends Way = Way,
> extends Parts<Q, B, A, W> {
  method: Method
  /** As OpenAPI writes it: /links/{id}. Every name in braces is a whole number. */
  path: Path
  params: z.ZodObject<Record<Names<Path>, ReturnType<typeof numberText>>>
}

/**
 * @example
 * const lamp = operation('GET /lamps/{id}', { group: 'Lamps', needs: 'look', does: 'A lamp.', answer: savedLamp })
 */
export const operation = <
  Path extends string,
  A extends z.ZodType,
  Q extends z.ZodRawShape = Record<never, never>,
  B extends z.ZodType = z.ZodUndefined,
  W extends Way = 'json',
>(
  where: `${Method} ${Path}`,
  parts: Parts<Q, B, A, W>,
): Operation<Path, Q, B, A, W> => {
  const [method, path] = where.split(' ') as [Method, Path]
  const names = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => [name!, numberText(1)])
  return { ...parts, method, path, params: z.object(Object.fromEntries(names) as never) }
}

type ParamsOf<O extends Operation> = Record<Names<O['path']>, number>
type QueryOf<O extends Operation> = { [name in keyof z.input<z.ZodObject<NonNullable<O['query']>>>]?: string | number | null }
type BodyOf<O extends Operation> = z.input<NonNullable<O['body']>>

/** What a caller gives. Of the query, what has no value is left out. */
export type Given<O extends Operation> = { query?: QueryOf<O> } & ([Names<O['path']>] extends [never]
  ? { params?: undefined }
  : { params: ParamsOf<O> }) &
  (undefined extends BodyOf<O> ? { body?: BodyOf<O> } : { body: BodyOf<O> })

export type AnswerOf<O extends Operation> = z.output<O['answer']>

interface Address {
  params?: Readonly<Record<string, number>> | undefined
  query?: Readonly<Record<string, string | number | null | undefined>> | undefined
}

/** Where an operation is asked for: the path below /api, with what was given in it. */
export const addressOf = ({ path }: Operation, { params = {}, query = {} }: Address) => {
  const filled = path.replace(/\{(\w+)\}/g, (_, name: string) => String(params[name]))
  const given = Object.entries(query).flatMap(([name, value]) =>
    value === null || value === undefined || value === '' ? [] : [[name, String(value)]],
  )
  return given.length > 0 ? `${filled}?${new URLSearchParams(given as [string, string][])}` : filled
}
