import { createPrivateKey, X509Certificate } from 'node:crypto'
import { request } from 'node:http'
import { rmSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { connect, type TLSSocket } from 'node:tls'
import { fault } from '#core/faults/catalogue'
import { hostText } from '#core/opcua/endpointAddress'
import { readNodeText, type NodeCode } from '#core/pairing/code'
import { isIssuedBy } from '#security/certificateFacts'
import { isJoiningProof, joiningCall, joiningProof } from '#security/joiningProof'
import type { Seal } from '#security/seal'
import { keyFingerprint, newKeys } from '#security/siteAuthority'
import { openAt } from '#security/nodeSeal'
import { joinAnswer, nodeForm, standbyPack, type JoinAnswer, type JoinAsked } from '#shared/nodeRpc'
import { takePack } from '../lead/pack'
import { NodeIdentity } from './identity'

const waitMs = 15_000
const mostAnswered = 64 * 1024

/** Makes this machine a node by the code of a site, or one that stands by for all of it. Nothing is kept where it fails. Rejects with a fault. */
export const joinSite = async (text: string, version: string, stateFolder: string, seal: Seal, standsBy = false): Promise<NodeIdentity> => {
  const read = readNodeText(text)
  if (!read.ok) throw fault('node.code', { problem: read.problem }) as unknown as Error
  const { code } = read
  const at = `${hostText(code.host)}:${code.port}`
  const socket = await dialled(code, at)
  try {
    const authority = authorityOf(socket, code, at)
    const keys = await newKeys()
    const joining = { authority: fingerprintOf(authority), node: keyFingerprint(keys.publicKey) }
    const asked: JoinAsked = {
      form: nodeForm,
      call: joiningCall(code.secret),
      proof: joiningProof(code.secret, 'node', joining),
      key: keys.publicKey,
      ...{ host: hostname(), version, now: Date.now(), standsBy },
    }
    const answer = await asks(socket, at, asked)
    if (!answer.ok) throw answer.fault as unknown as Error
    const issued = new X509Certificate(answer.certificate)
    const isOurs = keyFingerprint(issued.publicKey.export({ format: 'pem', type: 'spki' }).toString()) === joining.node
    const isProved = isJoiningProof(answer.proof, code.secret, 'site', joining) && isIssuedBy(issued.raw, authority.raw) && isOurs
    if (!isProved) throw fault('node.proof', { by: 'The site' }) as unknown as Error
    const { node, name, site, pack } = answer
    forgetOther(stateFolder, NodeIdentity.load(stateFolder, seal), node, authority)
    const places = answer.doors.length > 0 ? answer.doors : [{ host: code.host, port: code.port }]
    const facts = { node, name, site, places, key: keys.privateKey, certificate: answer.certificate, authority: authority.toString() }
    const kept =
      pack === null ? seal : takePack(stateFolder, standbyPack.parse(JSON.parse(openAt(createPrivateKey(keys.privateKey), pack))))
    return NodeIdentity.save(stateFolder, kept, { ...facts, standsBy: pack !== null })
  } finally {
    socket.destroy()
  }
}

/** What another site, or another node, was told and recorded here is none of this one’s. */
const forgetOther = (stateFolder: string, before: NodeIdentity | null, node: number, authority: X509Certificate) => {
  if (!before || (before.node === node && before.authority === authority.toString())) return
  for (const name of ofNode) rmSync(join(stateFolder, name), { recursive: true, force: true })
}
const ofNode = ['last-configuration.jsonl', 'history', 'memory-values.jsonl', 'path-checks.json', 'unsaved-writes.jsonl']

const dialled = ({ host, port }: NodeCode, at: string): Promise<TLSSocket> =>
  new Promise((resolve, reject) => {
    // who it is shows in what it shows, and in what it can prove
    const socket = connect({ host, port, rejectUnauthorized: false, minVersion: 'TLSv1.3' }, () => {
      socket.setTimeout(0)
      resolve(socket)
    })
    const failed = (problem: string) => {
      socket.destroy()
      reject(fault('node.no-answer', { at, problem }) as unknown as Error)
    }
    socket.setTimeout(waitMs, () => failed(`nothing came within ${waitMs / 1000} s`))
    socket.on('error', (error) => failed(error.message))
  })

/** The authority that the code is of, as whoever answers shows it. */
const authorityOf = (socket: TLSSocket, { fingerprint }: NodeCode, at: string): X509Certificate => {
  const leaf = socket.getPeerCertificate(true)
  const shown = leaf.issuerCertificate?.raw
  const authority = shown && new X509Certificate(shown)
  if (!authority || !fingerprintOf(authority).startsWith(fingerprint) || !isIssuedBy(leaf.raw, authority.raw))
    throw fault('node.other-site', { at }) as unknown as Error
  return authority
}

const fingerprintOf = (certificate: X509Certificate) => certificate.fingerprint256.replaceAll(':', '').toLowerCase()

const asks = (socket: TLSSocket, at: string, asked: JoinAsked): Promise<JoinAnswer> =>
  new Promise((resolve, reject) => {
    const failed = (problem: string) => reject(fault('node.no-answer', { at, problem }) as unknown as Error)
    const headers = { host: at, 'content-type': 'application/json' }
    const sent = request({ method: 'POST', path: '/join', headers, createConnection: () => socket, timeout: waitMs }, (response) => {
      let text = ''
      response.setEncoding('utf8')
      response.on('data', (part: string) => {
        text += part
        if (text.length > mostAnswered) response.destroy(new Error('its answer does not end'))
      })
      response.on('error', (error) => failed(error.message))
      response.on('end', () => {
        const answer = joinAnswer.safeParse(jsonIn(text))
        if (answer.success) resolve(answer.data as JoinAnswer)
        else failed('its answer cannot be understood')
      })
    })
    sent.on('timeout', () => sent.destroy(new Error(`nothing came within ${waitMs / 1000} s`)))
    sent.on('error', (error) => failed(error.message))
    sent.end(JSON.stringify(asked))
  })

const jsonIn = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
