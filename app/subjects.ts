/** Where a thing of the configuration stands, by its subject. A new subject adds its line here. */
const places: Record<string, (id: number) => string> = {
  certificate: () => '/site/certificates',
  link: (id) => `/links/${id}`,
  outlet: (id) => `/outlets/${id}`,
  tag: (id) => `/tags/${id}`,
}

export const placeOfThing = ({ subject, id }: { subject: string; id: number }): string => places[subject]?.(id) ?? '/site'
