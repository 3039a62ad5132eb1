/** The stations of the conduit, in the direction of the data, and the places beside it. */
export const stations = [
  // what is asked of a link stands at its station
  { key: 'l', title: 'Links', path: '/links', also: '/records' },
  { key: 't', title: 'Tags', path: '/tags' },
  { key: 'e', title: 'Equipment', path: '/equipment' },
  { key: 'b', title: 'Bridges', path: '/bridges' },
  { key: 'o', title: 'Outlets', path: '/outlets' },
] as const

export const besides = [
  { key: 'n', title: 'Bench', path: '/bench' },
  { key: 'r', title: 'Trends', path: '/trends' },
  { key: 'd', title: 'Displays', path: '/displays' },
  { key: 'f', title: 'Traffic', path: '/traffic' },
  { key: 'a', title: 'Alarms', path: '/alarms' },
  { key: 'j', title: 'Journal', path: '/journal' },
  { key: 's', title: 'Site', path: '/site' },
] as const

export const home = { key: 'h', title: 'Line-up', path: '/' } as const

/** Places within a station that have a key of their own. */
const within = [{ key: 'w', title: 'Watch lists', path: '/tags/watch' }] as const

/** Everywhere that a key leads to. */
export const places = [home, ...stations, ...within, ...besides]
