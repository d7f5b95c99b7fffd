/** Buttons of which one is pressed: the views of a station. */
export function Tabs<View extends string>({
  views,
  view,
  onView,
}: {
  views: Partial<Record<View, string>>;
  view: View;
  onView: (view: View) => void;
}) {
  return (Object.keys(views) as View[]).map((key) => (
    <button key={key} type="button" className="tab" aria-pressed={view === key} onClick={() => onView(key)}>
      {views[key]}
    </button>
  ));
}
