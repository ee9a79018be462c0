import type { ReactNode } from "react";
import { theme } from "../theme";

type BigButtonProps = { children: ReactNode; onTouch: () => void };

export function BigButton({ children, onTouch }: BigButtonProps) {
  return (
    <button style={{ minHeight: theme.touch }} onClick={onTouch}>
      {children}
    </button>
  );
}
