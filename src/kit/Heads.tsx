/** The head of a plain table: the first column runs left, figures right. */
export const Heads = ({ names }: { names: readonly string[] }) => (
  <thead>
    <tr>
      {names.map((name, i) => (
        <th key={name} scope="col" className={i > 0 ? 'text-right' : 'text-left'}>
          {name}
        </th>
      ))}
    </tr>
  </thead>
);
