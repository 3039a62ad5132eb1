import { entry } from './entry'

interface Place {
  host: string
  port: number
}

const anew = 'Make a new code there, and pair once more.'
const hours = (ms: number) => {
  const apart = Math.abs(ms) / 3_600_000
  return apart < 48 ? `${Math.round(apart)} hours` : `${Math.round(apart / 24)} days`
}

/** Two copies of this application that are paired by a code. */
export const pairingFaults = {
  'pairing.code': entry<{ problem: string }>(
    'entry',
    (e) => `That is no pairing code: ${e.problem}`,
    () => 'Compare it with the code that the other copy shows. Nothing was paired.',
  ),
  'pairing.itself': entry(
    'entry',
    () => 'This code was made here: a copy does not pair with itself.',
    () => 'Paste it at the other copy; or make one there and paste it here.',
  ),
  'pairing.other-machine': entry<Place>(
    'network',
    (e) => `What answers at ${e.host}:${e.port} is not the copy that made this code: it shows another certificate.`,
    (e) =>
      `Nothing was said to it. Check that ${e.host} leads to the machine that made the code, also through address translation; if its certificate was renewed since, make a new code there.`,
  ),
  'pairing.not-awaited': entry<Place>(
    'consumer',
    (e) => `The copy at ${e.host}:${e.port} awaits nobody with this code: it was used, withdrawn, or has run out.`,
    () => anew,
  ),
  'pairing.proof': entry<{ by: string }>(
    'device',
    (e) => `${e.by} could not prove that it knows the code.`,
    () => 'Somebody else may stand between the two. Nothing was paired. Compare the fingerprints on both sides, then make a new code.',
  ),
  'pairing.form': entry<{ name: string; theirs: number; ours: number }>(
    'device',
    (e) =>
      `“${e.name}” pairs in form ${e.theirs}, this copy in form ${e.ours}: the ${e.theirs > e.ours ? 'other' : 'first'} is of a newer version.`,
    (e) => `Bring the ${e.theirs > e.ours ? 'copy here' : 'copy there'} to the version of the other, then pair.`,
  ),
  'pairing.clock': entry<{ name: string; aheadMs: number }>(
    'device',
    (e) => `The clock of “${e.name}” is ${hours(e.aheadMs)} ${e.aheadMs > 0 ? 'ahead of' : 'behind'} ours.`,
    () =>
      'One of the two is wrong, and by it certificates would look as if they were not valid. Set it (timedatectl set-time, or a time server), then pair.',
  ),
  'pairing.answer': entry<{ name: string }>(
    'device',
    (e) => `What “${e.name}” says of itself cannot be understood.`,
    () => 'Bring both copies to the same version.',
  ),
  'pairing.there': entry<{ name: string; problem: string; next: string }>(
    'consumer',
    (e) => `“${e.name}” did not take it: ${e.problem}`,
    (e) => `There: ${e.next}`,
  ),
  'pairing.slow': entry<{ what: string; seconds: number }>(
    'network',
    (e) => `${e.what} did not come within ${e.seconds} s.`,
    () => `Look whether something on the way holds the connection up. ${anew}`,
  ),
  'pairing.no-session': entry<{ name: string; seconds: number }>(
    'network',
    (e) => `Both sides decided, and “${e.name}” and we did not come together the ordinary way within ${e.seconds} s.`,
    () => `Everything was taken back here; the other copy does the same by itself. ${anew}`,
  ),
  'pairing.guessed': entry<{ tries: number }>(
    'network',
    (e) => `Somebody tried ${e.tries} wrong proofs; the code was withdrawn.`,
    () => 'See the journal for where they came from. Make a new code.',
  ),
  'pairing.most': entry<{ most: number }>(
    'entry',
    (e) => `${e.most} codes are open already.`,
    () => 'Withdraw one that is not needed.',
  ),
  'pairing.no-walk': entry<{ link: string; problem: string }>(
    'device',
    (e) => `The copy there did not walk the path of its link “${e.link}”.`,
    () => 'Look at that link over there (Links › its name › Path check), or give our guest there the right to the whole site.',
  ),
  'pairing.not-paired': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” is not paired with another copy.`,
    () => 'Nothing was changed.',
  ),
  'pairing.swapped': entry<{ name: string }>(
    'device',
    (e) => `What answers as “${e.name}” shows another certificate than the one that was paired with.`,
    () =>
      'Compare the fingerprints with the one over there. If its certificate was renewed or its machine replaced, make a new code for this link and pair again; if not, somebody stands between the two.',
  ),
}
