// The thread that measures a range of the mix.
import { measureRange } from '$files/prints/loudness';

export default measureRange;
