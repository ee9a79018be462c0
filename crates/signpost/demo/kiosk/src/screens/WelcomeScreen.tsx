import { BigButton } from "../components/BigButton";
import { t } from "../i18n/t";
import type { Visit } from "../state/Visit";

type WelcomeScreenProps = { visit: Visit };

export function WelcomeScreen({ visit }: WelcomeScreenProps) {
  return <BigButton onTouch={() => visit.goTo("deposit")}>{t("welcome.deposit")}</BigButton>;
}
