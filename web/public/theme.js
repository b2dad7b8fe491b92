// Runs before the page paints, so that a dark desk does not flash white.
;(function () {
  var wanted = localStorage.getItem('deft-theme') || 'system'
  var dark = wanted === 'dark' || (wanted === 'system' && matchMedia('(prefers-color-scheme: dark)').matches)
  document.documentElement.classList.toggle('dark', dark)
})()
