export const theme = { touch: 64, ink: "#10231a", paper: "#fbf7ec" };
