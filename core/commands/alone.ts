// Commands that leave alone whatever is linked to what they touch: what a rule, an import or a sheet says is all that it does.
import type { Command } from './index.ts';

export const alone = (commands: readonly Command[]): Command[] => commands.map((command) => ({ ...command, alone: true }));
