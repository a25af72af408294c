package dev.zabbet.internal.document;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.type.DocumentValue;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Json;
import org.jspecify.annotations.Nullable;

/** Values as a document holds them. */
public final class PlainDocument {
    private PlainDocument() {}

    /**
     * Returns a value of the application as a document holds it: maps, lists, text, numbers, booleans, null.
     *
     * @throws ZabbetException if JSON can hold no such value
     */
    public static @Nullable Object of(@Nullable Object value) {
        try {
            return Json.read(Json.write(DocumentValue.plain(value)))
                    .orElseThrow()
                    .value();
        } catch (InexactValueException e) {
            throw new ZabbetException("A document cannot hold this value: " + e.clause() + ".");
        }
    }

    /** Returns a plain value as text. */
    public static String write(@Nullable Object plain) {
        try {
            return Json.write(plain);
        } catch (InexactValueException e) {
            throw new IllegalStateException("it is plain", e);
        }
    }

    /** Returns what a column's text says; null of null, and of what is no JSON. */
    public static @Nullable Object read(@Nullable Object text) {
        return text == null
                ? null
                : Json.read(text.toString()).map(Json.Document::value).orElse(null);
    }
}
