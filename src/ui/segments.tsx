/** Segments of a file, one a line, with words beside each. */
import { segmentWords } from '../core/x12/words837';
import css from './segments.module.css';

/** The segments of a claim. @param text one a line */
export const Segments = ({ text }: { text: string }) => (
  <div className={css.segments} tabIndex={0} role="region" aria-label="Segments">
    <table>
      <tbody>
        {text
          .split('\n')
          .filter(Boolean)
          .map((segment, index) => (
            <tr key={index}>
              <td>
                <code>{segment}</code>
              </td>
              <td className="quiet small">{segmentWords(segment)}</td>
            </tr>
          ))}
      </tbody>
    </table>
  </div>
);
