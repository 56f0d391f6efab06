// Before anything is drawn, so that the page does not flash in the other theme.
document.documentElement.dataset.theme = localStorage.getItem('lurn.theme') === 'day' ? 'day' : 'night';
