// What a parameter is: its name, unit, range and value at birth.

export type ParamSpec = {
  readonly id: string;
  readonly label: string;
  readonly unit: 'dB' | 'Hz' | 'ms' | 's' | '%' | '' | 'dB/oct' | ':1' | 'frames';
  readonly min: number;
  readonly max: number;
  readonly birth: number;
  /** For choices: what each whole number stands for. */
  readonly choices?: readonly string[];
  /** Its least value stands for −∞. */
  readonly silent?: true;
  /** For editors: the heading under which it stands. */
  readonly group?: string;
};
