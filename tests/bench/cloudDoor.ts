import { CloudDoor } from '#standins/cloud/http'
import { PortCloud } from '#standins/cloud/platform'

/** A platform in a process of its own. */
const door = new CloudDoor(new PortCloud(), '')
const port = await door.listen(0)
process.send!(port)
process.once('disconnect', () => process.exit(0))
