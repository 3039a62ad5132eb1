/** What can go wrong with a cable arm's server, switchable one by one from the stand-ins' page and from tests. */
export const armFaultText = {
  'trusts-nobody': 'does not trust us: every certificate it trusted waits again',
  'wrong-host': 'calls itself by a host name that nobody can resolve',
  expired: 'its certificate expired last year',
  'not-yet': 'its certificate is valid from next year on',
  'other-host': 'its certificate is for another host',
  'short-key': 'the key of its certificate has 1024 bits',
  'clock-wrong': 'its clock is two hours behind',
  'publishes-nothing': 'takes subscriptions and publishes nothing; reads work',
  reordered: 'restarted with its namespaces in another order',
  'refuses-user': 'lets nobody sign in by name',
} as const

export type ArmFault = keyof typeof armFaultText
export const armFaults = Object.keys(armFaultText) as ArmFault[]
export const isArmFault = (name: unknown): name is ArmFault => armFaults.includes(name as ArmFault)

/** These take effect with a restart of the server; the others at once. */
export const needsRestart = new Set<ArmFault>(['wrong-host', 'expired', 'not-yet', 'other-host', 'short-key', 'reordered'])
