import {
  DataType,
  StatusCodes,
  Variant,
  type CallMethodResultOptions,
  type ISessionContext,
  type Namespace,
  type NodeId,
  type UAObject,
} from 'node-opcua'
import { walkMethod } from '#core/opcua/ourNamespaces'
import type { CheckPart } from '#shared/diagnosis'
import type { FarHalf } from '#shared/farHalf'
import type { CheckStep } from '#shared/status'
import { walkedForAnother } from '../../links/opcua/farHalves'
import type { Permits } from './tagVariable'

interface Around {
  permits: Permits
  walk(linkId: number, signal: AbortSignal): AsyncGenerator<CheckPart> | null
}

const longestMs = 60_000

/** Adds to the object of a link the method that walks its path, for those who may see the whole site. */
export const addWalk = (namespace: Namespace, object: UAObject, nodeId: NodeId, linkId: number, { permits, walk }: Around) => {
  const found = { name: 'Found', description: { text: 'The steps, and the causes of a stop, JSON.' }, dataType: DataType.String }
  const method = namespace.addMethod(object, { browseName: walkMethod, nodeId, outputArguments: [found] })
  // whoever asks while it is walked gets what comes of that
  let walking: Promise<string> | null = null
  method.bindMethod((_given, context: ISessionContext, done) => {
    if (permits.may(context, '') === 'nothing') return done(null, { statusCode: StatusCodes.BadUserAccessDenied })
    walking ??= walkedForAnother.run(true, () => walked(walk(linkId, AbortSignal.timeout(longestMs)))).finally(() => (walking = null))
    walking.then(
      (text) => done(null, answer(text)),
      () => done(null, { statusCode: StatusCodes.BadUnexpectedError }),
    )
  })
}

const answer = (text: string): CallMethodResultOptions => ({
  statusCode: StatusCodes.Good,
  outputArguments: [new Variant({ dataType: DataType.String, value: text })],
})

const walked = async (parts: AsyncGenerator<CheckPart> | null): Promise<string> => {
  const steps = new Map<string, CheckStep>()
  const half: FarHalf = { steps: [], causes: [] }
  for await (const part of parts ?? []) {
    if ('verdict' in part) half.causes = part.verdict.causes
    else steps.set(part.step, part)
  }
  half.steps = [...steps.values()]
  return JSON.stringify(half)
}
