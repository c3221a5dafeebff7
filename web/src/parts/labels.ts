// Labels of quantities and choices: the same file the papers and tables use.
import labels from "../../../lucernis/practice/labels.json";

export const LABELS = labels;
