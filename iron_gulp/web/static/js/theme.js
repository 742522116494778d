// Applied before first paint so that a dark page never flashes light.
(function () {
  var kept = null;
  try { kept = localStorage.getItem("iron-gulp-theme"); } catch (error) { console.info("theme is not kept", error.name); }
  var paper = document.querySelector('link[rel="stylesheet"][media="all"]');  // sheets are white as they will be printed
  var dark = !paper && (kept ? kept === "dark" : window.matchMedia("(prefers-color-scheme: dark)").matches);
  document.documentElement.dataset.bsTheme = dark ? "dark" : "light";
})();

// A change made before the other scripts are ready is remembered here; bench.js sends it once they are.
window.earlyChanges = new Set();
document.addEventListener("change", function (event) {
  if (window.earlyChanges) window.earlyChanges.add(event.target);
}, true);
