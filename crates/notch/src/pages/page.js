// Filters and sorts long tables. Without it a page is read all the same.
for (const table of document.querySelectorAll('table.long')) {
  const body = table.tBodies[0], rows = [...body.rows], heads = [...table.tHead.rows[0].cells];
  const label = document.createElement('label'), field = document.createElement('input'), shown = document.createElement('span');
  field.type = 'search';
  shown.setAttribute('role', 'status');
  const filter = () => {
    const wanted = field.value.toLowerCase();
    let count = 0;
    for (const row of rows) {
      row.hidden = !row.textContent.toLowerCase().includes(wanted);
      count += !row.hidden;
    }
    shown.textContent = ` ${count} of ${rows.length} rows`;
  };
  field.addEventListener('input', filter);
  label.append('Rows that hold ', field);
  table.before(label, shown);
  filter();
  heads.forEach((head, column) => {
    const button = document.createElement('button');
    button.append(...head.childNodes);
    head.append(button);
    button.addEventListener('click', () => {
      const down = head.getAttribute('aria-sort') === 'ascending';
      heads.forEach((other) => other.removeAttribute('aria-sort'));
      head.setAttribute('aria-sort', down ? 'descending' : 'ascending');
      const text = (row) => row.cells[column].textContent;
      rows.sort((a, b) => (down ? -1 : 1) * text(a).localeCompare(text(b), 'en', { numeric: true }));
      body.append(...rows);
    });
  });
}
