/** Names and filters of topics (MQTT 5.0 and 3.1.1, clause 4.7 of both). */

/** A UTF-8 string carries its length in two bytes (1.5.4). */
const mostBytes = 65_535

const bytesOf = (text: string) => new TextEncoder().encode(text).length

const textProblem = (text: string, what: string): string | null => {
  if (text === '') return `A ${what} has at least one character.`
  if (text.includes('\0')) return `A ${what} holds no NUL (MQTT 4.7.3).`
  // a lone half of a surrogate pair is no character, and has no UTF-8 form
  if (/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/.test(text)) return `A ${what} holds half a character.`
  if (bytesOf(text) > mostBytes)
    return `A ${what} has at most 65,535 bytes, and this has ${bytesOf(text).toLocaleString('en-GB')} (MQTT 1.5.4).`
  return null
}

/** What is wrong with the name of a topic, to which messages are sent; null: nothing. */
export const topicProblem = (topic: string): string | null =>
  textProblem(topic, 'topic') ??
  (/[+#]/.test(topic) ? 'The name of one topic holds no “+” and no “#”: those stand for many (MQTT 4.7.1).' : null)

/** What is wrong with a filter, by which many topics are listened to; null: nothing. */
export const filterProblem = (filter: string): string | null => {
  const problem = textProblem(filter, 'filter')
  if (problem) return problem
  const levels = filter.split('/')
  if (levels.some((level) => level.includes('+') && level !== '+')) return '“+” stands for a whole level: berth/+/power (MQTT 4.7.1.3).'
  const hash = levels.findIndex((level) => level.includes('#'))
  if (hash >= 0 && (levels[hash] !== '#' || hash < levels.length - 1))
    return '“#” stands for all levels from there on, at the end: berth/# (MQTT 4.7.1.2).'
  return null
}

/**
 * Tells whether topics match a filter. Topics that begin with “$” are matched by no wildcard at the first level (4.7.2).
 *
 * @example
 * matcherOf('berth/+/power')('berth/2/power') // true
 */
export const matcherOf = (filter: string): ((topic: string) => boolean) => {
  const wanted = filter.split('/')
  const isWild = wanted[0] === '+' || wanted[0] === '#'
  const goesOn = wanted.at(-1) === '#'
  const named = goesOn ? wanted.slice(0, -1) : wanted
  return (topic) => {
    if (isWild && topic.startsWith('$')) return false
    const levels = topic.split('/')
    // “sport/#” also matches “sport” itself (4.7.1.2)
    if (goesOn ? levels.length < named.length : levels.length !== named.length) return false
    return named.every((level, index) => level === '+' || level === levels[index])
  }
}

/** Whether every topic that goes by `inner` goes by `outer`, too: whoever listens to `outer` need not listen to `inner`. */
export const covers = (outer: string, inner: string): boolean => {
  if (outer === inner) return true
  const [wide, narrow] = [outer.split('/'), inner.split('/')]
  if ((wide[0] === '+' || wide[0] === '#') && inner.startsWith('$')) return false
  for (let at = 0; at < wide.length; at++) {
    if (wide[at] === '#') return true
    const level = narrow[at]
    // “sport/#” also matches “sport” itself (4.7.1.2)
    if (level === undefined || level === '#') return false
    if (wide[at] !== '+' && wide[at] !== level) return false
  }
  return wide.length === narrow.length
}
