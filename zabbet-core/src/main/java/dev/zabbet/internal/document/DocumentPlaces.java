package dev.zabbet.internal.document;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Documents that differ from another at one place. What is given stays as it is. */
public final class DocumentPlaces {
    private DocumentPlaces() {}

    /**
     * Returns a document that holds another value at a place. Objects on the way there that are missing are made; a list takes the
     * position after its last.
     *
     * @throws IllegalArgumentException if the way leads through something else, with the reason as message
     */
    public static @Nullable Object with(@Nullable Object document, DocumentPath path, @Nullable Object value) {
        return changed(document, path.steps(), 0, value);
    }

    /** Returns the places that a path means in a document: itself, or with stars all that are there. */
    public static List<DocumentPath> meant(@Nullable Object document, DocumentPath path) {
        List<DocumentPath> found = new ArrayList<>();
        if (path.isPattern()) {
            collect(document, path.steps(), DocumentPath.WHOLE, found);
        } else {
            found.add(path);
        }
        return found;
    }

    private static void collect(@Nullable Object value, List<Object> steps, DocumentPath at, List<DocumentPath> found) {
        int next = at.steps().size();
        if (next == steps.size()) {
            found.add(at);
        } else if (steps.get(next) == DocumentPath.Any.NAME && value instanceof Map<?, ?> map) {
            map.forEach((name, part) -> collect(part, steps, at.name((String) name), found));
        } else if (steps.get(next) == DocumentPath.Any.POSITION && value instanceof List<?> list) {
            for (int i = 0; i < list.size(); i++) {
                collect(list.get(i), steps, at.at(i), found);
            }
        } else if (steps.get(next) instanceof String name && value instanceof Map<?, ?> map && map.containsKey(name)) {
            collect(map.get(name), steps, at.name(name), found);
        } else if (steps.get(next) instanceof Integer position
                && value instanceof List<?> list
                && position < list.size()) {
            collect(list.get(position), steps, at.at(position), found);
        }
    }

    private static @Nullable Object changed(
            @Nullable Object document, List<Object> steps, int at, @Nullable Object value) {
        if (at == steps.size()) {
            return value;
        }
        if (steps.get(at) instanceof Integer position) {
            List<@Nullable Object> list = list(document, steps, at);
            if (position > list.size()) {
                throw new IllegalArgumentException("the list" + of(steps, at) + " has " + list.size()
                        + " elements, so that the next position is " + list.size());
            }
            Object before = position < list.size() ? list.get(position) : null;
            Object after = changed(before, steps, at + 1, value);
            if (position < list.size()) {
                list.set(position, after);
            } else {
                list.add(after);
            }
            return list;
        }
        Map<String, @Nullable Object> map = map(document, steps, at);
        String name = (String) steps.get(at);
        map.put(name, changed(map.get(name), steps, at + 1, value));
        return map;
    }

    /** Returns a document without what stands at a place. */
    public static @Nullable Object without(@Nullable Object document, DocumentPath path) {
        if (path.isWhole() || !path.isIn(document)) {
            return document;
        }
        List<Object> holder = path.steps().subList(0, path.steps().size() - 1);
        Object last = path.steps().get(path.steps().size() - 1);
        Object held = new DocumentPath(holder).in(document);
        if (held instanceof Map<?, ?>) {
            Map<String, @Nullable Object> fewer = map(held, holder, holder.size());
            fewer.remove(last);
            return with(document, new DocumentPath(holder), fewer);
        }
        List<@Nullable Object> fewer = list(held, holder, holder.size());
        fewer.remove(((Integer) last).intValue());
        return with(document, new DocumentPath(holder), fewer);
    }

    private static List<@Nullable Object> list(@Nullable Object document, List<Object> steps, int at) {
        if (document != null && !(document instanceof List)) {
            throw new IllegalArgumentException("no list stands" + of(steps, at));
        }
        return document instanceof List<?> list ? new ArrayList<>(list) : new ArrayList<>();
    }

    private static Map<String, @Nullable Object> map(@Nullable Object document, List<Object> steps, int at) {
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        if (document instanceof Map<?, ?> held) {
            held.forEach((name, part) -> map.put((String) name, part));
        } else if (document != null) {
            throw new IllegalArgumentException("no object stands" + of(steps, at));
        }
        return map;
    }

    private static String of(List<Object> steps, int at) {
        return at == 0
                ? " at the top"
                : " at " + new DocumentPath(steps.subList(0, at)).toString().replaceFirst("^\\.", "");
    }
}
