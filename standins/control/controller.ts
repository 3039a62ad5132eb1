import { controllerFaultText, isControllerFault } from '../isotcp/controller'
import type { ConverterController } from '../isotcp/converterProgram'

export const describeConverter = ({ controller, converter }: ConverterController) => ({
  connections: controller.connections,
  requests: controller.requests,
  active: controller.fault === null ? [] : [controller.fault],
  faults: controllerFaultText,
  state: converter.state,
})

/** Faults of the converter's controller; null where the path is none of ours. */
export const converterRoute = async (
  { controller }: ConverterController,
  path: string,
  readBody: () => Promise<Record<string, unknown>>,
) => {
  if (path === '/api/converter/drop') {
    controller.dropAll()
    return { status: 200, body: { dropped: true } }
  }
  if (path !== '/api/converter/fault') return null
  const { fault, on = true } = await readBody()
  if (!isControllerFault(fault)) return { status: 400, body: { problem: `fault is one of ${Object.keys(controllerFaultText).join(', ')}` } }
  controller.fault = on === true ? fault : null
  if (controller.fault === 'taken') controller.dropAll()
  return { status: 200, body: { done: true } }
}
