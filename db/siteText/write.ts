import { writeYaml } from '#core/formats/yaml/write'
import { keyOf, type Subject, type ThingOf } from '../subjects'
import type { Stored } from '../subjects/definition'
import { draftOf } from './changes'
import { sections, textForm, type Part } from './document'
import { textOfThing } from './thingText'

export type Things = { [S in Subject]: readonly ThingOf[S][] }

type Thing = ThingOf[Subject]

/** So many things are written in one go. */
const inOneGo = 200

/**
 * The configuration as a YAML text, piece by piece: in an order that depends on names alone, so that two of them
 * compare line by line, and without secrets.
 *
 * @param lists those of the subjects that are to be written; one that is absent is left out
 * @returns pieces of the text, and at the end nothing more; each takes a millisecond or a few
 */
export function* writeSite(site: string | null, part: Part | null, lists: Partial<Things>, all: Things): Iterable<string> {
  yield head(site, part)
  const nameById = new Map(
    sections.map(({ subject }) => [
      subject,
      new Map((all[subject] as readonly Thing[]).map((thing) => [thing.id, keyOf(subject, thing as never)])),
    ]),
  )
  const secretNames = new SecretNames()
  for (const { subject, section } of sections) {
    const things = lists[subject] as readonly Thing[] | undefined
    if (!things) continue
    const sorted = [...things].sort((a, b) => (keyOf(subject, a as never) < keyOf(subject, b as never) ? -1 : 1))
    yield sorted.length === 0 ? `\n${section}: {}\n` : `\n${section}:\n`
    for (let at = 0; at < sorted.length; at += inOneGo) {
      const written = sorted.slice(at, at + inOneGo).map((thing): [string, Stored] => {
        const [name, draft] = [keyOf(subject, thing as never), draftOf(thing)]
        const names = {
          thing: (other: Subject, id: number) => nameById.get(other)?.get(id) ?? '',
          secret: (path: string) => secretNames.of(subject, name, path),
        }
        return [name, textOfThing(subject, draft as never, names)]
      })
      yield indented(writeYaml(Object.fromEntries(written)))
    }
  }
}

const head = (site: string | null, part: Part | null) =>
  `# The configuration of a Keen Conduit site; docs/configuration.md says what may stand here.\n${writeYaml({
    conduit: textForm,
    ...(site === null ? {} : { site }),
    ...(part === null ? {} : { part }),
  })}`

/** Lines of a block of text are indented with the rest, which YAML takes for the same text. */
const indented = (text: string) => text.replace(/^(?=.)/gm, '  ')

/** Names for secrets that an environment takes; none twice. */
class SecretNames {
  private places = new Map<string, string>()

  of(subject: Subject, name: string, path: string): string {
    const place = `${subject} ${name} ${path}`
    const wanted = [subject, name, path.replace(/^settings\./, '')].map(plain).join('_')
    let found = wanted
    for (let i = 2; (this.places.get(found) ?? place) !== place; i++) found = `${wanted}_${i}`
    this.places.set(found, place)
    return found
  }
}

const plain = (text: string) =>
  text
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9]+/g, '_')
    .replace(/^_|_$/g, '')
    .toUpperCase()
