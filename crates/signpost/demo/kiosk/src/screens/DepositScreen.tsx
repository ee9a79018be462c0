import { BigButton } from "../components/BigButton";
import { Keypad } from "../components/Keypad";
import { t } from "../i18n/t";
import type { Visit } from "../state/Visit";

type DepositScreenProps = { visit: Visit };

export function DepositScreen({ visit }: DepositScreenProps) {
  return (
    <main>
      <h1>{t("deposit.title")}</h1>
      <Keypad label={t("deposit.seeds")} onNumber={(seeds) => visit.note({ seeds })} />
      <BigButton onTouch={() => visit.goTo("check")}>{t("deposit.on")}</BigButton>
    </main>
  );
}
