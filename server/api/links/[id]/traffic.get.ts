import { trafficRoute } from '../../../runtime/traffic'

/** What passed at the connections of a link. */
export default trafficRoute('link')
