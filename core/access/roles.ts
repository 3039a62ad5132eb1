/** Who may do what: each role may do all that the ones before it may. */
export const roles = ['look', 'operate', 'configure', 'administer'] as const
export type Role = (typeof roles)[number]

export const roleText: Record<Role, string> = {
  look: 'sees everything, changes nothing',
  operate: 'also writes values to the plant',
  configure: 'also changes links, tags, outlets and trust',
  administer: 'also decides who may come in',
}

export const mayDo = (role: Role, needed: Role) => roles.indexOf(role) >= roles.indexOf(needed)
