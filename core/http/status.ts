/** Status codes in the words of RFC 9110, 15, and RFC 6585. */
const words: Record<number, string> = {
  200: 'OK',
  201: 'created',
  202: 'accepted',
  204: 'no content',
  301: 'moved permanently',
  302: 'found elsewhere',
  304: 'not modified',
  307: 'found elsewhere for now',
  308: 'moved permanently',
  400: 'bad request',
  401: 'not signed in',
  403: 'not allowed',
  404: 'not found',
  405: 'this method is not allowed there',
  406: 'not in a form that we take',
  408: 'the request took too long',
  409: 'conflict',
  410: 'gone',
  413: 'the body is too large',
  415: 'a body of this kind is not taken',
  422: 'the content is not right',
  429: 'too many requests',
  500: 'an error of the server',
  501: 'not implemented',
  502: 'the server behind it failed',
  503: 'not available now',
  504: 'the server behind it did not answer in time',
}

export const statusText = (status: number): string => words[status] ?? (status >= 500 ? 'an error of the server' : 'refused')

/** Whether the same call may be answered another time: the far side is busy or broken, not the call wrong. */
export const isPassingStatus = (status: number): boolean => status === 408 || status === 425 || status === 429 || status >= 500

/**
 * How long the far side wants to be left alone, ms (RFC 9110, 10.2.3: seconds or a date); null: it does not say.
 * @param now Unix milliseconds
 */
export const retryAfterMs = (header: string | null, now: number): number | null => {
  if (header === null) return null
  const text = header.trim()
  if (/^\d{1,9}$/.test(text)) return Number(text) * 1000
  const time = /^[A-Za-z]{3}, /.test(text) ? Date.parse(text) : NaN
  return Number.isNaN(time) ? null : Math.max(0, time - now)
}
