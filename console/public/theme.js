// Before the first paint, so that nothing flashes: the theme chosen here before, or the system's.
(() => {
  const chosen = localStorage.getItem("holtra-theme");
  const dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = dark ? "dark" : "light";
})();
