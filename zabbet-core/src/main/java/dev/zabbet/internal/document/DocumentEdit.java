package dev.zabbet.internal.document;

import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.JsonTextDifference;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * One thing by which two documents differ. Of lists the elements that are alike at the beginning and at the end stay; of those
 * between, the ones at the same position are compared, and what is left over was added or removed. Positions of what was removed
 * are those before, all others those after. Applied to the first document, all edits give the second.
 *
 * @param path where
 * @param kind what happened there
 * @param before what stood there; null if nothing did, or null
 * @param after what stands there now; null if nothing does, or null
 */
public record DocumentEdit(
        DocumentPath path,
        Kind kind,
        @Nullable Object before,
        @Nullable Object after) {

    /** What happened at a place. */
    public enum Kind {
        ADDED,
        CHANGED,
        REMOVED
    }

    /** Returns the edits that lead from one document to another, by name: the order of names in a document says nothing. */
    public static List<DocumentEdit> between(@Nullable Object before, @Nullable Object after) {
        List<DocumentEdit> edits = new ArrayList<>();
        compare(DocumentPath.WHOLE, before, after, edits);
        return edits;
    }

    /**
     * Returns the edits that lead from one text of JSON to another. Of long ones only the value is read that holds all that differs.
     *
     * @return empty if one of them is no JSON
     */
    public static Optional<List<DocumentEdit>> betweenTexts(String before, String after) {
        JsonTextDifference part = JsonTextDifference.of(before, after).orElse(null);
        if (part != null) {
            Optional<List<DocumentEdit>> inside = read(new DocumentPath(part.steps()), part.before(), part.after());
            if (inside.isPresent()) {
                return inside;
            }
        }
        return read(DocumentPath.WHOLE, before, after);
    }

    private static Optional<List<DocumentEdit>> read(DocumentPath path, String before, String after) {
        Json.Document a = Json.read(before).orElse(null);
        Json.Document b = Json.read(after).orElse(null);
        if (a == null || b == null) {
            return Optional.empty();
        }
        List<DocumentEdit> edits = new ArrayList<>();
        compare(path, a.value(), b.value(), edits);
        return Optional.of(edits);
    }

    private static void compare(
            DocumentPath path, @Nullable Object before, @Nullable Object after, List<DocumentEdit> edits) {
        if (before instanceof Map<?, ?> a && after instanceof Map<?, ?> b) {
            Set<Object> names = new TreeSet<>(a.keySet());
            names.addAll(b.keySet());
            for (Object name : names) {
                DocumentPath below = path.name((String) name);
                if (!b.containsKey(name)) {
                    edits.add(new DocumentEdit(below, Kind.REMOVED, a.get(name), null));
                } else if (!a.containsKey(name)) {
                    edits.add(new DocumentEdit(below, Kind.ADDED, null, b.get(name)));
                } else {
                    compare(below, a.get(name), b.get(name), edits);
                }
            }
        } else if (before instanceof List<?> a && after instanceof List<?> b) {
            compareLists(path, a, b, edits);
        } else if (!Json.same(before, after)) {
            edits.add(new DocumentEdit(path, Kind.CHANGED, before, after));
        }
    }

    private static void compareLists(DocumentPath path, List<?> a, List<?> b, List<DocumentEdit> edits) {
        int both = Math.min(a.size(), b.size());
        int start = 0;
        while (start < both && Json.same(a.get(start), b.get(start))) {
            start++;
        }
        int end = 0;
        while (end < both - start && Json.same(a.get(a.size() - 1 - end), b.get(b.size() - 1 - end))) {
            end++;
        }
        int paired = both - end;
        for (int i = start; i < paired; i++) {
            compare(path.at(i), a.get(i), b.get(i), edits);
        }
        for (int i = Math.max(start, paired); i < a.size() - end; i++) {
            edits.add(new DocumentEdit(path.at(i), Kind.REMOVED, a.get(i), null));
        }
        for (int i = Math.max(start, paired); i < b.size() - end; i++) {
            edits.add(new DocumentEdit(path.at(i), Kind.ADDED, null, b.get(i)));
        }
    }

    /** Returns an edit for each value that was added or removed, in the place of one for what holds them. */
    public List<DocumentEdit> leaves() {
        List<DocumentEdit> leaves = new ArrayList<>();
        if (kind == Kind.CHANGED) {
            leaves.add(this);
        } else {
            leaves(path, kind == Kind.ADDED ? after : before, leaves);
        }
        return leaves;
    }

    private void leaves(DocumentPath at, @Nullable Object value, List<DocumentEdit> leaves) {
        if (value instanceof Map<?, ?> map && !map.isEmpty()) {
            new TreeMap<>(map).forEach((key, part) -> leaves(at.name((String) key), part, leaves));
        } else if (value instanceof List<?> list && !list.isEmpty()) {
            for (int i = 0; i < list.size(); i++) {
                leaves(at.at(i), list.get(i), leaves);
            }
        } else {
            leaves.add(
                    kind == Kind.ADDED
                            ? new DocumentEdit(at, kind, null, value)
                            : new DocumentEdit(at, kind, value, null));
        }
    }
}
