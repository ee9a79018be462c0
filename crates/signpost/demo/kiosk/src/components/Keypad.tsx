type KeypadProps = { label: string; onNumber: (value: number) => void };

export function Keypad({ label, onNumber }: KeypadProps) {
  return <input aria-label={label} inputMode="none" onChange={(event) => onNumber(Number(event.target.value))} />;
}
