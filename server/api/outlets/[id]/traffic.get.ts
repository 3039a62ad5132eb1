import { trafficRoute } from '../../../runtime/traffic'

/** What passed at the connections of an outlet. */
export default trafficRoute('outlet')
