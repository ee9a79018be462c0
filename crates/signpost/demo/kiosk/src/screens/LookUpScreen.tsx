import { Keypad } from "../components/Keypad";
import { t } from "../i18n/t";
import type { Visit } from "../state/Visit";

type LookUpScreenProps = { visit: Visit };

export function LookUpScreen({ visit }: LookUpScreenProps) {
  return <Keypad label={t("lookup.lot")} onNumber={(lot) => visit.note({ lot })} />;
}
