// The conversion thread.
import { convert } from '$files/convert';

export default convert;
