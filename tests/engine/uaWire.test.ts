import { describe, expect, it } from 'vitest'
import { armUri } from '#standins/opcua/armNodes'
import { freePort } from '../../launcher/ports.mjs'
import { startArm } from '../support/arm'
import { openOutlet } from '../support/outlet'
import { uaTcp } from '../support/ua/bytes'
import { endpointsByWire } from '../support/ua/endpoints'
import { until } from '../support/until'

/** What our servers say on the wire, read without the package that says it. */

const policyUri = (name: string) => `http://opcfoundation.org/UA/SecurityPolicy#${name}`

describe('endpoints, byte by byte', () => {
  it('our outlet has one door: unsecured, anonymous, on loopback', async () => {
    const port = await freePort()
    const { session } = await openOutlet({ doors: [{ port }] }, { name: 'Outlet on the wire' })
    await until(
      () => session.status().flow,
      (flow) => flow === 'flowing',
    )
    const endpoints = await endpointsByWire('127.0.0.1', port)
    expect(endpoints).toHaveLength(1)
    expect(endpoints[0]).toMatchObject({
      url: `opc.tcp://127.0.0.1:${port}`,
      applicationName: 'Outlet on the wire',
      mode: 1,
      policy: policyUri('None'),
      transport: uaTcp,
    })
    expect(endpoints[0]!.tokens).toEqual([0])
    await session.close()
  }, 30_000)

  it('a cable arm has seven ways in, as our own search for them says', async () => {
    const plant = await startArm(2)
    const endpoints = await endpointsByWire('127.0.0.1', plant.port, '/arm')
    expect(endpoints.map(({ policy, mode }) => `${policy.split('#')[1]} ${mode}`).sort()).toEqual([
      'Aes128_Sha256_RsaOaep 2',
      'Aes128_Sha256_RsaOaep 3',
      'Aes256_Sha256_RsaPss 2',
      'Aes256_Sha256_RsaPss 3',
      'Basic256Sha256 2',
      'Basic256Sha256 3',
      'None 1',
    ])
    for (const { applicationUri, tokens, certificate } of endpoints) {
      expect(applicationUri).toBe(armUri(2))
      expect([...new Set(tokens)].sort()).toEqual([0, 1, 2])
      expect(certificate.equals(plant.server.certificate)).toBe(true)
    }
    await plant.stop()
  }, 30_000)
})
