import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import { ArrivalDoor } from '#engine/arrivals/arrivalDoor'

/** For links over which no messages come. */
export const noArrivals = () => new ArrivalDoor(new ArrivalBook(() => {}))
