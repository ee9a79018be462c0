import { createRoot } from "react-dom/client";
import { Visit } from "./state/Visit";
import { WelcomeScreen } from "./screens/WelcomeScreen";

const hall = document.getElementById("hall");
if (hall) createRoot(hall).render(<WelcomeScreen visit={Visit.begin()} />);
