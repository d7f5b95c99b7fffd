/** How the decisions of the box are asked for: (field, label, unit), and lists by the name that the core gives them. */

export interface AskedFor {
  field: string;
  label: string;
  /** A quantity in this unit, unless `list` is given: then chosen of that. */
  unit?: string;
  list?: string;
  /** Yes or no. */
  flag?: boolean;
  empty?: string;
}

export const CASE: AskedFor[] = [
  { field: "length_mm", label: "Length, left to right", unit: "mm" },
  { field: "width_mm", label: "Width, front to back", unit: "mm" },
  { field: "height_mm", label: "Height, floor to shut lid", unit: "mm" },
  { field: "measured", label: "Measured", list: "Case.measured" },
  { field: "lid_mm", label: "Of that in the lid", unit: "mm" },
  { field: "taper_mm", label: "Each side leans in by", unit: "mm" },
  { field: "wall_mm", label: "Wall", unit: "mm" },
  { field: "opens", label: "It opens", list: "Case.opens" },
  { field: "material", label: "Made of", list: "box-material" },
  { field: "colour", label: "Colour", list: "Case.colour" },
  { field: "in_sun", label: "In the sun", list: "Case.in_sun", empty: "as the brief says" },
  { field: "sealing", label: "Sealed", list: "Case.sealing" },
  { field: "mass_kg", label: "Its own mass", unit: "kg" },
  { field: "rated_kg", label: "Rated for", unit: "kg", empty: "not known" },
];

export const FEATURE: AskedFor[] = [
  { field: "kind", label: "It is a", list: "Feature.kind" },
  { field: "face", label: "On the face", list: "Feature.face" },
  { field: "x_mm", label: "Middle, from the left", unit: "mm" },
  { field: "y_mm", label: "Middle, over the floor", unit: "mm" },
  { field: "width_mm", label: "Wide", unit: "mm" },
  { field: "height_mm", label: "High", unit: "mm" },
  { field: "inside_mm", label: "Stands in by", unit: "mm" },
];

export const FIXTURE: AskedFor[] = [
  { field: "material", label: "Made of", list: "fixture-material" },
  { field: "x_mm", label: "From the left", unit: "mm" },
  { field: "y_mm", label: "From the front", unit: "mm" },
  { field: "z_mm", label: "Over the floor", unit: "mm" },
  { field: "width_mm", label: "Long", unit: "mm" },
  { field: "depth_mm", label: "Deep", unit: "mm" },
  { field: "height_mm", label: "High", unit: "mm" },
];

export const FITTING: AskedFor[] = [
  { field: "kind", label: "It is a", list: "Fitting.kind" },
  { field: "face", label: "In the face", list: "Fitting.face" },
  { field: "x_mm", label: "Middle, from the left", unit: "mm" },
  { field: "y_mm", label: "Middle, over the floor", unit: "mm" },
  { field: "width_mm", label: "Wide, or its diameter", unit: "mm" },
  { field: "height_mm", label: "High", unit: "mm", empty: "it is round" },
  { field: "inside_mm", label: "Stands in by", unit: "mm" },
  { field: "free_cm2", label: "Free opening", unit: "cm²", empty: "typical" },
  { field: "sealing", label: "Sealed", list: "Fitting.sealing" },
];

export const PINNED: AskedFor = { field: "pinned", label: "Stays here when a layout is proposed", flag: true };

export const VENT: AskedFor[] = [{ field: "filtered", label: "With a filter", flag: true }];

export const FAN: AskedFor[] = [
  { field: "blows", label: "It blows", list: "Fitting.blows" },
  { field: "flow_m3h", label: "In free air", unit: "m³/h", empty: "not known" },
  { field: "starts", label: "It starts", list: "Fitting.starts" },
  { field: "on_c", label: "Starts above", unit: "°C", empty: "above the site" },
  { field: "off_c", label: "Stops below", unit: "°C", empty: "a little below" },
];

export const BODY: AskedFor[] = [
  { field: "width_mm", label: "Width", unit: "mm", empty: "typical" },
  { field: "depth_mm", label: "Depth", unit: "mm", empty: "typical" },
  { field: "height_mm", label: "Height", unit: "mm", empty: "typical" },
  { field: "mass_kg", label: "Mass", unit: "kg", empty: "typical" },
];
