// Objects split where their outlines turn inward, each part completed by an ellipse.
#pragma once
#include <vector>

#include "../common/plane.h"
#include "../outline/contour.h"
#include "group_arcs.h"
#include "share_out.h"

namespace bm {

struct OutlineParts {
  std::vector<Ellipse> ellipses;  // that of label k + 1
  std::vector<double> unseen;     // of every object the share that no part explains
};

// Labels 1 .. count of `labels`, with their outlines through the grey at `level`, to the labels of
// their parts, in no order. Necks must be narrower than the smaller part by `depth` and by `share`
// of its radius. A pixel is sx by sy, the larger of the two 1; lengths are in the same unit. `out`
// must hold zeros.
template <class Interrupt>
OutlineParts separate_outlines(Plane<const int> labels, Plane<const double> grey, double level,
                               double sx, double sy, double depth, double share, int count,
                               Plane<int> out, int threads, Interrupt pause) {
  std::vector<std::vector<Arc>> arcs(static_cast<std::size_t>(count));
  std::vector<std::vector<Point>> notches(arcs.size());
  struct Corner {
    std::int32_t x, y;
  };
  std::vector<Corner> corner(arcs.size());  // from which the arcs of an object count
  for (Contour& ring : contours(labels, grey, level, 0, threads, pause)) {
    for (Point& p : ring.points) p = {p.x * sx, p.y * sy};
    const std::size_t k = static_cast<std::size_t>(ring.label) - 1;
    corner[k] = {ring.x, ring.y};
    add_arcs(ring.points, ring.hole, arcs[k], notches[k]);
  }
  OutlineParts parts;
  parts.unseen.resize(arcs.size());
  ShareOut share_out(labels, out, sx, sy);
  std::vector<int> first(arcs.size());
  for (std::size_t k = 0; k < arcs.size(); ++k) {
    if (k % 64 == 0) pause();
    const int label = static_cast<int>(k) + 1;
    const Corner& from = corner[k];
    ArcGroups object(Seen<int>(labels, from.x, from.y), label, sx, sy, arcs[k], notches[k]);
    first[k] = static_cast<int>(parts.ellipses.size()) + 1;
    std::vector<std::vector<Point>> hulls;
    for (const Group& g : object.find(depth, share, pause)) {
      Ellipse whole = object.completed(g);
      if (whole.known()) {
        whole.x += from.x * sx;
        whole.y += from.y * sy;
      }
      parts.ellipses.push_back(whole);
      hulls.push_back(convex_hull(g.all));
    }
    if (hulls.size() > 1) parts.unseen[k] = share_out(label, hulls, first[k], from.x, from.y);
  }
  for (std::size_t i = 0; i < labels.size(); ++i)
    if (labels.data[i] > 0 && out.data[i] == 0)
      out.data[i] = first[static_cast<std::size_t>(labels.data[i]) - 1];
  return parts;
}

}  // namespace bm
