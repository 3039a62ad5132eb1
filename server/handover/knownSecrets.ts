import { secretsIn } from '#core/handover/secretsIn'
import type { Things } from '#db/siteText/write'
import { openSecret } from '../store/secrets'

/** Every secret of the configuration that can be opened here, in clear. */
export const knownSecrets = (things: Things): string[] => secretsIn(things, openSecret)
