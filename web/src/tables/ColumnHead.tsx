/** The head of a column; one without words is no header, which would be read out as a blank one. */
export function ColumnHead({
  words,
  className,
}: {
  words: string;
  className?: string | undefined;
}) {
  if (!words) return <td className={className} />;
  return (
    <th scope="col" className={className}>
      {words}
    </th>
  );
}
