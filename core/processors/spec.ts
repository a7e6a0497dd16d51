// What a parameter is: its name, unit, range and default.

export type ParamSpec = {
  readonly id: string;
  readonly label: string;
  readonly unit: 'dB' | 'Hz' | 'ms' | 's' | '%' | '' | 'dB/oct' | ':1' | 'frames';
  readonly min: number;
  readonly max: number;
  readonly default: number;
  /** For choices: what each whole number stands for. */
  readonly choices?: readonly string[];
  /** Its least value stands for −∞. */
  readonly silent?: true;
  /** Whether it says how late the processor is: another value is another plan. */
  readonly latency?: true;
  /** Whether it means something only where there are two sides. */
  readonly twoSides?: true;
  /** Whether it means something beside the other values; absent is always. */
  readonly when?: (values: Params) => boolean;
  /** What the processor makes of it at these values, in words, where that is not what the number says. */
  readonly note?: (values: Params) => string | null;
  /** For editors: the heading under which it stands. */
  readonly group?: string;
};

/** Whether its values are far apart by ratio rather than by difference: frequencies, times, ratios. */
export const isLogarithmic = ({ unit, min }: Pick<ParamSpec, 'unit' | 'min'>): boolean => min > 0 && ['Hz', 's', 'ms', ':1'].includes(unit);

export type Params = Readonly<Record<string, number>>;

/** Every parameter's value: what is set, else its default. */
export const valuesBy = (specs: Iterable<ParamSpec>, params: Params): Record<string, number> => {
  const values: Record<string, number> = {};
  for (const spec of specs) values[spec.id] = params[spec.id] ?? spec.default;
  return values;
};
