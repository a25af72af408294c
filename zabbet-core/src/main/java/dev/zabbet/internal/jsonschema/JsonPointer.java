package dev.zabbet.internal.jsonschema;

import java.net.URI;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Pointers into a JSON document (RFC 6901), and what URIs mean where they stand (RFC 3986, section 5). */
final class JsonPointer {
    private JsonPointer() {}

    static String escaped(String name) {
        return name.replace("~", "~0").replace("/", "~1");
    }

    /** Returns the names and positions of a pointer as it stands in the fragment of a URI. */
    static List<String> steps(String fragment) {
        List<String> steps = new ArrayList<>();
        String[] parts = decoded(fragment).split("/", -1);
        for (int i = 1; i < parts.length; i++) {
            steps.add(parts[i].replace("~1", "/").replace("~0", "~"));
        }
        return steps;
    }

    static String decoded(String fragment) {
        return URLDecoder.decode(fragment.replace("+", "%2B"), StandardCharsets.UTF_8);
    }

    /** Returns the resource that a schema is: what its {@code $id} says, or that of the schema around it. */
    static String resource(@Nullable Object schema, String around) {
        return schema instanceof Map<?, ?> map && map.get("$id") instanceof String id ? resolved(id, around) : around;
    }

    /** Returns a URI without its fragment, as it is meant inside of a resource. */
    static String resolved(String reference, String base) {
        String plain = reference.contains("#") ? reference.substring(0, reference.indexOf('#')) : reference;
        if (plain.isEmpty()) {
            return base;
        }
        try {
            return URI.create(base).resolve(plain).toString();
        } catch (IllegalArgumentException e) {
            return plain;
        }
    }
}
