import { type ReactNode, useMemo, useState } from "react";
import { useSetLook } from "../api/changes";
import { useStudy } from "../api/queries";
import type { Figure, FigureGroup, GroupStyle } from "../api/types";
import { GroupMenu } from "./GroupMenu";
import type { GroupLabels } from "./groupStyles";
import { hiddenGroups } from "./styled";

interface GroupStyles {
  all: readonly GroupStyle[];
  labels: GroupLabels;
  hidden: FigureGroup[];
  styleOf: (group: FigureGroup) => GroupStyle;
  show: (group: FigureGroup) => void;
  /** The menu of the group whose label was chosen. */
  menu: ReactNode;
}

const NONE: readonly GroupStyle[] = [];

/** How the groups of a figure are drawn in a view, and where that is chosen. */
export function useGroupStyles(study: string, view: string, figure: Figure): GroupStyles {
  const all = useStudy(study).data?.group_styles ?? NONE;
  const [open, setOpen] = useState<{ tone: number; anchor: Element } | null>(null);
  const set = useSetLook(study, view);
  const groups = figure.groups;
  const labels = useMemo(
    (): GroupLabels => ({
      known: (label) => groups.some((group) => group.label === label),
      open: (label, anchor) => {
        const group = groups.find((one) => one.label === label);
        if (group) setOpen({ tone: group.tone, anchor });
      },
    }),
    [groups],
  );
  const styleOf = (key: string): GroupStyle =>
    all.find((style) => style.group === key) ?? {
      group: key,
      tone: null,
      dash: null,
      hidden: [],
      front: [],
      bare: [],
    };
  // By its place: its name may be changed meanwhile.
  const chosen = groups.find((group) => group.tone === open?.tone);
  return {
    all,
    labels,
    hidden: hiddenGroups(groups, all, view),
    styleOf: (group) => styleOf(group.key),
    show: (group) => {
      const style = styleOf(group.key);
      set.mutate({ ...style, hidden: style.hidden.filter((one) => one !== view) });
    },
    menu:
      open && chosen ? (
        <GroupMenu
          study={study}
          view={view}
          group={chosen}
          style={styleOf(chosen.key)}
          anchor={open.anchor}
          onClose={() => setOpen(null)}
        />
      ) : null,
  };
}
