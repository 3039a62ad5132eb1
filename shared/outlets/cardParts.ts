import { fingerprintText, type CertificateFacts } from '#core/certificates/judge'
import type { CardSection } from './card'

/** What cards of several kinds of outlet say in the same words. */

export const doorIdentityText = ({ anonymous, names }: { anonymous: boolean; names: boolean }): string =>
  [anonymous ? 'without a name' : '', names ? 'name and password' : ''].filter(Boolean).join(', or ')

/** How a client comes to believe our certificate, where a door shows it. */
export const trustSection = (doors: readonly { tls: boolean }[], own: CertificateFacts | null): CardSection[] => {
  if (!own || !doors.some(({ tls }) => tls)) return []
  return [
    {
      title: 'Trust',
      rows: [
        { label: 'Our certificate', text: own.name },
        { label: 'Is for', text: own.hosts.join(', ') },
        { label: 'Valid until', text: new Date(own.validTo).toISOString().slice(0, 10) },
        { label: 'SHA-256', text: fingerprintText(own.fingerprint) },
      ],
      steps: ['Take our certificate from Certificates under Site, and give it to the client as the authority that it trusts.'],
    },
  ]
}
