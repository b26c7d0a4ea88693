// Before anything is painted: the theme that was chosen here, or the one that the machine asks for.
document.documentElement.dataset.theme =
  localStorage.getItem('laager-theme') ??
  (matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'light');
