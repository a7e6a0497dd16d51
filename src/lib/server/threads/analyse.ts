// The analysis thread.
import { analyse } from '$files/analyse';

export default analyse;
