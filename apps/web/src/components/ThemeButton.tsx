import { Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { IconButton } from './Tip';

export function ThemeButton() {
  const [theme, setTheme] = useState(document.documentElement.dataset.theme ?? 'night');
  const other = theme === 'day' ? 'night' : 'day';
  const change = () => {
    document.documentElement.dataset.theme = other;
    localStorage.setItem('lurn.theme', other);
    setTheme(other);
  };
  return (
    <IconButton label={`Switch to the ${other} theme`} onClick={change}>
      {theme === 'day' ? <Moon size={14} /> : <Sun size={14} />}
    </IconButton>
  );
}
