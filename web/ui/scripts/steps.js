// The order of steps: dragged, or moved with Alt and the arrows. The buttons of each row
// do the same without any script.
(() => {
  const form = document.querySelector('[data-order]')
  if (!form) return
  const body = form.querySelector('tbody')
  const keep = form.querySelector('[data-keep]')
  let dragged = null

  const changed = () => { keep.hidden = false }

  for (const row of body.querySelectorAll('[data-step]')) {
    row.draggable = true
    row.tabIndex = 0
    row.addEventListener('dragstart', (event) => {
      dragged = row
      event.dataTransfer.effectAllowed = 'move'
    })
    row.addEventListener('dragover', (event) => {
      if (!dragged || dragged === row) return
      event.preventDefault()
      const box = row.getBoundingClientRect()
      body.insertBefore(dragged, event.clientY < box.y + box.height / 2 ? row : row.nextSibling)
      changed()
    })
    row.addEventListener('drop', (event) => event.preventDefault())
    row.addEventListener('dragend', () => { dragged = null })
    row.addEventListener('keydown', (event) => {
      if (!event.altKey || event.target !== row) return
      if (event.key === 'ArrowUp' && row.previousElementSibling) body.insertBefore(row, row.previousElementSibling)
      else if (event.key === 'ArrowDown' && row.nextElementSibling) body.insertBefore(row.nextElementSibling, row)
      else return
      event.preventDefault()
      row.focus()
      changed()
    })
  }
})()
