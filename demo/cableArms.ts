import type { OwnCertificate } from '#security/ownCertificate'
import type { Seal } from '#security/seal'
import { certificateFacts } from '#security/certificateFacts'
import { linkContract, type LinkDraft } from '#shared/links/link'
import { pointTag, type TagDraft } from '#shared/tags'

/** A cable arm as the stand-ins describe it. */
export interface Arm {
  number: number
  url: string
  certificate: string
}

/** The stand-ins start beside us; they answer within a few seconds. */
export const armsFrom = async (controlPort: number): Promise<Arm[]> => {
  for (let tries = 0; tries < 150; tries++) {
    const answer = await fetch(`http://127.0.0.1:${controlPort}/api/arms`).catch(() => null)
    const told = answer?.ok ? ((await answer.json()) as { ready: boolean; arms: Arm[] }) : null
    if (told?.ready) return told.arms
    await new Promise((resolve) => setTimeout(resolve, 200))
  }
  throw new Error('The stand-ins do not answer.')
}

/** What somebody did at the panels of arms 1 and 2: our certificate is trusted there. Arm 3 still waits for that. */
export const letUsIn = async (controlPort: number, arms: readonly Arm[], own: OwnCertificate) => {
  for (const { number } of arms.filter((arm) => arm.number !== 3))
    await fetch(`http://127.0.0.1:${controlPort}/api/arms/${number}/trust`, {
      method: 'POST',
      body: JSON.stringify({ certificate: own.der.toString('base64') }),
    })
}

const arm = ({ url, number }: Arm, seal: Seal): LinkDraft =>
  linkContract.parse({
    name: `Cable arm berth ${number}`,
    kind: 'opcua',
    settings: {
      address: url,
      policy: 'Basic256Sha256',
      mode: 'SignAndEncrypt',
      identity: { kind: 'password', user: 'conduit', password: { sealed: seal.close('plug-and-socket') } },
    },
  })

export const armLinks = (arms: readonly Arm[], seal: Seal): LinkDraft[] => arms.map((one) => arm(one, seal))

export const armCertificates = (arms: readonly Arm[]) =>
  arms.map(({ certificate }) => {
    const { name, fingerprint } = certificateFacts(Buffer.from(certificate, 'base64'))
    return { name, fingerprint, verdict: 'trusted' as const, der: certificate, despite: [] }
  })

const points: { name: string; id: string; type: TagDraft['type']; more?: Partial<Pick<TagDraft, 'unit' | 'access'>> }[] = [
  { name: 'plug/position/extension', id: 'Plug.Position.Extension', type: 'float32', more: { unit: 'm' } },
  { name: 'plug/position/slew', id: 'Plug.Position.Slew', type: 'float32', more: { unit: '°' } },
  { name: 'plug/position/elevation', id: 'Plug.Position.Elevation', type: 'float32', more: { unit: '°' } },
  { name: 'plug/position/in_envelope', id: 'Plug.Position.InEnvelope', type: 'bool' },
  { name: 'plug/position/seat_force', id: 'Plug.Position.SeatForce', type: 'float32', more: { unit: 'kN' } },
  { name: 'plug/target/extension', id: 'Plug.Target.Extension', type: 'float32', more: { unit: 'm', access: 'readwrite' } },
  { name: 'plug/temperatures/contacts', id: 'Plug.Temperatures.Contacts', type: 'float64[]', more: { unit: '°C' } },
  { name: 'global/current', id: 'Global.Current', type: 'float32', more: { unit: 'A' } },
  { name: 'global/homed_at', id: 'Global.HomedAt', type: 'datetime' },
  { name: 'safety/pilot_closed', id: 'Safety.PilotClosed', type: 'bool' },
]

export const armTags = (number: number, linkId: number): TagDraft[] =>
  points.map(({ name, id, type, more }) =>
    pointTag({
      path: `berth/${number}/arm/${name}`,
      linkId,
      address: `nsu=urn:harrow-sound:cable-arm:${number}:program;s=${id}`,
      type,
      ...more,
    }),
  )
