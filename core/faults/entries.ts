import { entry } from './entry'

/** What people and programs enter, and who may. */
export const entryFaults = {
  'entry.invalid': entry<{ count: number }>(
    'entry',
    (e) => `${e.count === 1 ? 'One field needs' : `${e.count} fields need`} another value.`,
    () => 'Nothing was saved. Correct the marked fields and save again.',
  ),
  'entry.taken': entry<{ thing: string; name: string }>(
    'entry',
    (e) => `There is a ${e.thing} called “${e.name}” already.`,
    () => 'Choose another name; names tell things apart everywhere else.',
  ),
  'entry.edited': entry<{ thing: string; name: string; who: string; at: string }>(
    'entry',
    (e) => `${e.who} saved ${e.thing} “${e.name}” at ${e.at}, after you opened it.`,
    () => 'Nothing of yours is lost. Look at their version, then save yours over it or discard yours.',
  ),
  'entry.kind': entry<{ thing: string; is: string; wanted: string }>(
    'entry',
    (e) => `A ${e.thing} of the kind ${e.is} cannot become one of the kind ${e.wanted}.`,
    (e) => `Nothing was changed. Make a new ${e.thing} of that kind, and remove this one when it is no longer needed.`,
  ),
  'entry.gone': entry<{ thing: string; id: number }>(
    'entry',
    (e) => `The ${e.thing} ${e.id} is not there any more.`,
    () => 'Somebody removed it. The revisions on Site can bring it back.',
  ),
  'bench.not-there': entry<{ id: number }>(
    'entry',
    (e) => `There is no point ${e.id} on your bench.`,
    () => 'It was taken off in another window; open the bench again.',
  ),
  'bench.full': entry<{ most: number }>(
    'entry',
    (e) => `${e.most} points lie on your bench, and it takes no more.`,
    () => 'Take off those that you are done with.',
  ),
  'watch.not-there': entry<{ id: number }>(
    'entry',
    (e) => `There is no watch list ${e.id} for you.`,
    () => 'It was removed, or whose it is shares it no more; open the watch lists again.',
  ),
  'watch.full': entry<{ most: number; what: string }>(
    'entry',
    (e) => `At most ${e.most} ${e.what}.`,
    () => 'Nothing was changed. Remove what is no longer needed first.',
  ),
  'entry.in-use': entry<{ name: string; tags: number }>(
    'entry',
    (e) => `${e.tags} ${e.tags === 1 ? 'tag reads' : 'tags read'} through “${e.name}”.`,
    () => 'Remove it together with its tags, or move the tags to another link first.',
  ),
  'entry.bridged': entry<{ name: string; bridges: string }>(
    'entry',
    (e) => `“${e.name}” is used by ${e.bridges}.`,
    () => 'Remove those first, or have them use another link or outlet.',
  ),
  'entry.unreadable': entry<{ problem: string }>(
    'entry',
    (e) => `The request could not be read: ${e.problem}`,
    () => 'Send JSON as the API description shows.',
  ),
  'entry.too-large': entry<{ most: number }>(
    'entry',
    (e) => `The request is larger than the ${e.most.toLocaleString('en-GB')} bytes that are taken here.`,
    () => 'Send it in parts; nothing of it was taken.',
  ),
  'entry.too-slow': entry<{ seconds: number }>(
    'network',
    (e) => `The request was not there after ${e.seconds} s.`,
    () => 'Send it again; nothing of it was taken.',
  ),
  'entry.no-route': entry<{ path: string }>(
    'entry',
    (e) => `There is nothing at ${e.path}.`,
    () => 'Check the address.',
  ),
  'entry.no-method': entry<{ method: string; path: string; takes: string }>(
    'entry',
    (e) => `${e.path} does not take ${e.method}.`,
    (e) => `It takes ${e.takes}.`,
  ),
  'entry.busy': entry(
    'here',
    () => 'Too many changes are waiting already; this one was not taken.',
    () => 'Try again in a moment.',
  ),
  'entry.unstorable': entry(
    'entry',
    () => 'Something in the request is out of the range that can be stored: a number too large, or a character that no text may hold.',
    () => 'Nothing was saved. Correct it and send it again.',
  ),
  'entry.cross-site': entry<{ origin: string }>(
    'entry',
    (e) => `The request came from a page of ${e.origin}, not from this application.`,
    () => 'Open the application by its own address.',
  ),
  'entry.cannot-take-back': entry<{ which: string; reason: string }>(
    'entry',
    (e) => `Revision ${e.which} cannot be taken back: ${e.reason}`,
    () => 'Take back the later revision of the same thing first, or change it by hand.',
  ),
  'access.sign-in': entry(
    'entry',
    () => 'This needs somebody who is signed in.',
    () => 'Sign in; a session ends after a while without use.',
  ),
  'access.refused': entry<{ role: string; needed: string }>(
    'entry',
    (e) => `The role “${e.role}” does not allow this; it takes “${e.needed}”.`,
    () => 'Somebody who administers this site can give you another role.',
  ),
  'access.wrong': entry(
    'entry',
    () => 'Name and password do not fit together.',
    () => 'Check both; capitals count in the password. Somebody who administers this site can give you a new one.',
  ),
  'access.wait': entry<{ seconds: number }>(
    'entry',
    (e) => `Too many attempts; the next one is taken in ${e.seconds} s.`,
    () => 'Wait that long, then try again.',
  ),
  'access.change-password': entry(
    'entry',
    () => 'This password was given to be used once.',
    () => 'Choose one of your own; then everything else is open to you.',
  ),
  'access.people-only': entry(
    'entry',
    () => 'A program has no bench and no watch lists of its own.',
    () => 'Ask for tags by their ids, or try an address with POST /tags/try.',
  ),
  'access.last-administrator': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” is the last who administers this site.`,
    () => 'Give that role to somebody else first; nothing was changed.',
  ),
} as const
