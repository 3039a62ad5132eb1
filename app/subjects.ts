/** Where a thing of the configuration stands, by its subject. A new subject adds its line here. */
const places: Record<string, (id: number) => string> = {
  certificate: () => '/site/certificates',
  deviceDescription: () => '/site/devices',
  equipmentClass: (id) => `/equipment/classes/${id}`,
  equipment: (id) => `/equipment?at=${id}`,
  display: (id) => `/displays/${id}`,
  recording: () => '/trends/recording',
  recordSet: (id) => `/records/${id}`,
  bridge: (id) => `/bridges/${id}`,
  node: () => '/site/nodes',
  link: (id) => `/links/${id}`,
  outlet: (id) => `/outlets/${id}`,
  tag: (id) => `/tags/${id}`,
}

/** What a thing is called: `record set`. */
export const subjectWord = (subject: string) => subject.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`)

export const placeOfThing = ({ subject, id }: { subject: string; id: number }): string => places[subject]?.(id) ?? '/site'
