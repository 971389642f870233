// Before you start: a part that is scanned is ticked, and all that lies ready at once.
(() => {
  const form = document.querySelector('[data-ready]')
  if (!form) return
  const boxes = [...form.querySelectorAll('input[name=here]')]
  const scan = form.querySelector('[data-scanhere]')
  const told = form.querySelector('[data-scanned]')
  function scanned(text) {
    const code = text.trim().toLowerCase()
    const box = boxes.find((b) => b.dataset.codes.toLowerCase().split('|').includes(code))
    if (box) box.checked = true
    told.textContent = box ? `Here: ${box.parentElement.textContent.trim()}` : `${text} is no part of this job`
    return Boolean(box)
  }
  scan?.addEventListener('keydown', (event) => {
    if (event.key !== 'Enter' || scan.value.trim() === '') return
    event.preventDefault()
    scanned(scan.value)
    scan.value = ''
  })
  document.addEventListener('scanned', (event) => {
    if (scan && scanned(event.detail)) event.preventDefault()
  })
  form.querySelector('[data-allhere]')?.addEventListener('click', () => boxes.forEach((b) => { b.checked = true }))
})()
