// Asks for what the page begins with while its code is still on the way. The code takes the answers (src/api/early.ts).
;(function () {
  if (location.pathname === '/sign-in') return
  var asked = {}
  function ask(address) {
    var control = new AbortController()
    var answer = fetch(address, { headers: { Accept: 'application/json' }, signal: control.signal })
    // Whoever takes it hears of a failure; nobody else has to.
    answer.catch(function () {})
    asked[address] = {
      at: performance.now(),
      answer: answer,
      stop: function () {
        control.abort()
      },
    }
  }
  ask('/api/desk')
  var register = /^\/registers\/(\w+)$/.exec(location.pathname)
  if (register) ask('/api/registers/' + register[1])
  var view = /^\/views\/(\d+)$/.exec(location.pathname)
  if (view) ask('/api/views/' + view[1] + '/page')
  // As the view is kept; whatever else the address asks for is asked for later.
  if (view && !location.search && !location.hash) {
    var zone = Intl.DateTimeFormat().resolvedOptions().timeZone
    ask('/api/views/' + view[1] + '/rows?limit=100&readerZone=' + encodeURIComponent(zone))
  }
  window.deftEarly = { asked: asked }
})()
