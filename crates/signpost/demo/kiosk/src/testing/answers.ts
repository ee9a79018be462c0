/** What the ledger answered on 3 March, with made-up names. */
export const answers = { lot: "HB-012345", species: "Digitalis purpurea", seeds: 250 };
