import type { Reference } from '../links/reference'
import { dataTypes } from '../tags/types'
import { statusText } from './status'
import { parametersOf } from './operation'
import type { HttpSettings } from './settings'

/** What web APIs answer most often instead of what was asked for, with what to do about it. */
const answers: [status: number, next: string][] = [
  [400, 'Compare the parameters with the description of the API.'],
  [401, 'Correct the sign-in; the owner of the API knows it.'],
  [403, 'Let the owner of the API allow this account to ask for it.'],
  [404, 'Correct the path or a parameter in it.'],
  [429, 'Ask less often, or have the limit raised; a longer pause that the API asks for is kept.'],
  [500, 'Tell the owner of the API; it is asked again by itself.'],
  [503, 'It is asked again once the API says so.'],
]

/** Operations, paths and answers of a web API, as this link has them. */
export const httpReference = ({ operations, interval, largest }: HttpSettings): Reference => ({
  notation: [
    { form: 'tariff', about: 'an operation of the link' },
    { form: 'tariff?zone=north', about: 'an operation with what is given for its parameters' },
    { form: '$.price.eur', about: 'as path: a member of the answer (RFC 9535)' },
    { form: '$.hours[0].price', about: 'as path: an element of a list' },
  ],
  places: operations.map((operation) => ({
    name: [
      operation.name,
      parametersOf(operation)
        .map((name) => `${name}=…`)
        .join('&'),
    ]
      .filter(Boolean)
      .join('?'),
    about: `${operation.method} ${operation.path || '/'}`,
    types: dataTypes,
    usual: 'float64' as const,
    writable: true,
  })),
  limits: [
    {
      what: 'A call',
      is: `made every ${interval.toLocaleString('en-GB')} ms, unless its tags choose another interval; tags of one call share it`,
    },
    { what: 'An answer', is: `read up to ${largest} MB` },
  ],
  errors: answers.map(([status, next]) => ({ code: String(status), words: statusText(status), next })),
})
