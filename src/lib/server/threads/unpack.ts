// The thread that opens packages: a large one should hold nobody up.
import { openPackage } from '$files/package';

export default ({ file, folder }: { readonly file: string; readonly folder: string }) => openPackage(file, folder);
