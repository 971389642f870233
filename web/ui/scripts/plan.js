// A form with data-live asks the server again as it is changed, and puts the answer where it
// belongs: the place on the page is kept, and the address says what is shown. Links with
// data-swap do the same. Without script both are followed like any other.
(() => {
  let asking
  let waiting

  async function swap(url, targets, keep) {
    if (asking) asking.abort()
    asking = new AbortController()
    document.body.classList.add('asking')
    try {
      const answer = await fetch(url, { signal: asking.signal, headers: { Accept: 'text/html' } })
      const page = new DOMParser().parseFromString(await answer.text(), 'text/html')
      let missing = false
      for (const name of targets) {
        const from = page.querySelector(name)
        const to = document.querySelector(name)
        if (from && to) to.replaceWith(from)
        else missing = true
      }
      if (missing) {
        window.location.assign(url)
        return
      }
      if (keep) remember(url)
      // What is asked, in words, stands outside of what it is asked for.
      const [said, says] = [document.querySelector('#askedwords'), page.querySelector('#askedwords')]
      if (said && says) said.replaceWith(says)
      // The other forms of the page carry what is asked now.
      document.querySelectorAll('form[data-live]').forEach((form) => {
        if (form.contains(document.activeElement)) return
        const fresh = page.querySelector('form[data-live="' + form.dataset.live + '"][action="' + form.getAttribute('action') + '"]')
        if (fresh) form.replaceWith(fresh)
      })
    } catch (fault) {
      if (fault.name !== 'AbortError') window.location.assign(url)
    } finally {
      document.body.classList.remove('asking')
    }
  }

  // Back goes back through what was asked; one burst of typing is one question.
  let typed = 0
  function remember(url) {
    const now = Date.now()
    if (new URL(url, location.href).href === location.href) return
    if (now - typed < 2000) history.replaceState(null, '', url)
    else history.pushState(null, '', url)
    typed = 0
  }
  window.addEventListener('popstate', () => {
    if (document.activeElement) document.activeElement.blur()
    const targets = ['#planned', '#answer'].filter((name) => document.querySelector(name))
    if (targets.length) swap(location.pathname + location.search, targets, false)
  })

  function addressOf(form) {
    const fields = new URLSearchParams()
    for (const [name, value] of new FormData(form)) {
      if (value !== '' || form.classList.contains('asked')) fields.append(name, value)
    }
    return form.getAttribute('action').split('#')[0] + '?' + fields
  }

  document.addEventListener('input', (event) => {
    const form = event.target.closest('form[data-live]')
    if (!form) return
    clearTimeout(waiting)
    const writing = event.target.tagName !== 'SELECT' && event.target.type !== 'checkbox'
    waiting = setTimeout(() => swap(addressOf(form), [form.dataset.live], true).then(() => { if (writing) typed = Date.now() }), writing ? 350 : 0)
  })
  // The list of options is filtered where it stands.
  document.addEventListener('input', (event) => {
    if (!event.target.matches('[data-filter]')) return
    const words = event.target.value.toLowerCase().split(/\s+/)
    document.querySelectorAll('[data-filtered] tr').forEach((row) => {
      row.hidden = !words.every((w) => row.textContent.toLowerCase().includes(w))
    })
  })
  document.addEventListener('submit', (event) => {
    const form = event.target.closest('form[data-live]')
    if (!form) return
    event.preventDefault()
    clearTimeout(waiting)
    swap(addressOf(form), [form.dataset.live], true).then(() => {
      const result = 'show' in form.dataset && document.querySelector('#ownresult')
      if (!result) return
      result.scrollIntoView({ block: 'center', inline: 'end' })
      result.focus({ preventScroll: true })
    })
  })
  document.addEventListener('click', (event) => {
    const link = event.target.closest('a[data-swap]')
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return
    event.preventDefault()
    const at = link.getAttribute('href')
    swap(window.location.pathname + at, ['#planned'], true).then(() => {
      const again = [...document.querySelectorAll('a[data-swap]')].find((a) => a.getAttribute('href') === at)
      if (again) again.focus()
    })
  })
})()
