import { childOf, childrenOf, type Element } from '../../formats/xml/elements'

/** The texts of a description in one language; what is not translated is told in the primary one. */
export class Texts {
  readonly language: string
  readonly languages: string[]
  private own: Map<string, string>
  private primary: Map<string, string>

  constructor(collection: Element | null, wanted: string) {
    const first = childOf(collection, 'PrimaryLanguage')
    const others = childrenOf(collection, 'Language')
    const primary = codeOf(first)
    this.languages = [primary, ...others.map(codeOf)]
    const chosen = others.find((one) => codeOf(one) === wanted || codeOf(one).startsWith(`${wanted}-`))
    this.language = chosen && wanted !== primary ? codeOf(chosen) : primary
    this.primary = textsIn(first)
    this.own = this.language === primary ? this.primary : textsIn(chosen ?? null)
  }

  of(id: string): string {
    return this.own.get(id) ?? this.primary.get(id) ?? ''
  }
}

const codeOf = (element: Element | null) => element?.attributes['xml:lang'] ?? element?.attributes.lang ?? 'en'

const textsIn = (element: Element | null) =>
  new Map(childrenOf(element, 'Text').map(({ attributes }) => [attributes.id ?? '', (attributes.value ?? '').trim()]))
