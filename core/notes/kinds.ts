/** Every kind of note on a tag: what it is called, and what to do about it. */
export const noteKinds = {
  overlap: { title: 'Overlap', todo: 'Correct the address or the type of one of the two.' },
  inside: {
    title: 'Part of a wider value',
    todo: 'If the wider one is right, this one reads a piece of it: remove one of them, or correct its address.',
  },
  otherwise: { title: 'Same place, other type', todo: 'Compare both with the faceplate of the instrument, and keep the one that agrees.' },
  duplicate: { title: 'Twice the same', todo: 'Remove one; or accept it where both are wanted, for instance with another scaling.' },
  range: { title: 'Beyond its type', todo: 'Choose a wider type, or correct the scaling or the range.' },
  case: { title: 'Differs in case only', todo: 'Write both alike: some consumers do not tell capitals from small letters.' },
  refused: { title: 'Not there', todo: 'Correct the address by the documents of the device, or remove the tag.' },
  unwritable: { title: 'Not taken there', todo: 'Make it a tag to read, or allow writing on the device.' },
  type: { title: 'Other type there', todo: 'Give the tag the type that the far side has.' },
  interval: {
    title: 'Cannot be kept',
    todo: 'Ask less often; or let the link use more connections or larger requests, or the server a shorter interval.',
  },
  unnotified: {
    title: 'Not told of',
    todo: 'Let UDP of the device pass to us, free a place for the subscription, or switch notifications off for this tag.',
  },
} as const satisfies Record<string, { title: string; todo: string }>

export type NoteKind = keyof typeof noteKinds
export const noteKindNames = Object.keys(noteKinds) as [NoteKind, ...NoteKind[]]

export interface Note {
  kind: NoteKind
  /** A phrase about the tag: `overlaps berth/1/power by 1 word`. */
  text: string
  /** By what it is known again when it is accepted: the kind, and what it is about. */
  key: string
}

/** @param about what tells it from others of its kind, however things are named */
export const note = (kind: NoteKind, text: string, about = ''): Note => ({ kind, text, key: about === '' ? kind : `${kind} ${about}` })
