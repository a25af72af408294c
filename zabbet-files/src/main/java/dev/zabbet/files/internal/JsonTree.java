package dev.zabbet.files.internal;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonGenerator;
import com.fasterxml.jackson.core.JsonParseException;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonToken;
import com.fasterxml.jackson.core.StreamReadFeature;
import java.io.IOException;
import java.io.StringWriter;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** JSON as maps, lists, text, numbers, truth values and null. Thread-safe. */
public final class JsonTree {
    private static final JsonFactory JSON = JsonFactory.builder()
            .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
            .build();

    private JsonTree() {}

    /**
     * Writes a tree, one name to a line.
     *
     * @param tree maps with text as keys, collections, numbers, truth values and null; anything else is written as its text
     */
    public static String write(@Nullable Object tree) {
        StringWriter text = new StringWriter();
        try (JsonGenerator out = JSON.createGenerator(text).useDefaultPrettyPrinter()) {
            write(out, tree);
        } catch (IOException e) {
            throw new IllegalStateException(e); // a text takes whatever is written
        }
        return text.toString();
    }

    /** Writes a tree as {@link #write} does, without line breaks. */
    public static String compact(@Nullable Object tree) {
        StringWriter text = new StringWriter();
        try (JsonGenerator out = JSON.createGenerator(text)) {
            write(out, tree);
        } catch (IOException e) {
            throw new IllegalStateException(e); // a text takes whatever is written
        }
        return text.toString();
    }

    private static void write(JsonGenerator out, @Nullable Object value) throws IOException {
        if (value instanceof Map<?, ?> map) {
            out.writeStartObject();
            for (Map.Entry<?, ?> entry : map.entrySet()) {
                out.writeFieldName(String.valueOf(entry.getKey()));
                write(out, entry.getValue());
            }
            out.writeEndObject();
        } else if (value instanceof Iterable<?> list) {
            out.writeStartArray();
            for (Object element : list) {
                write(out, element);
            }
            out.writeEndArray();
        } else if (value instanceof BigDecimal number) {
            out.writeNumber(number);
        } else if (value instanceof Number number) {
            out.writeNumber(number.toString());
        } else if (value instanceof Boolean truth) {
            out.writeBoolean(truth);
        } else if (value == null) {
            out.writeNull();
        } else {
            out.writeString(value.toString());
        }
    }

    /**
     * Reads a tree; null if the text is empty.
     *
     * @throws com.fasterxml.jackson.core.JsonProcessingException if it is no JSON, gives a name twice or goes on behind its value, with the place
     */
    public static @Nullable Object read(String json) throws IOException {
        try (JsonParser in = JSON.createParser(json)) {
            Object tree = in.nextToken() == null ? null : value(in);
            if (in.nextToken() != null) {
                throw new JsonParseException(in, "something stands behind the value");
            }
            return tree;
        }
    }

    private static @Nullable Object value(JsonParser in) throws IOException {
        if (in.currentToken() == JsonToken.START_OBJECT) {
            Map<String, @Nullable Object> map = new LinkedHashMap<>();
            while (in.nextToken() != JsonToken.END_OBJECT) {
                String name = in.currentName();
                in.nextToken();
                map.put(name, value(in));
            }
            return map;
        }
        if (in.currentToken() == JsonToken.START_ARRAY) {
            List<@Nullable Object> list = new ArrayList<>();
            while (in.nextToken() != JsonToken.END_ARRAY) {
                list.add(value(in));
            }
            return list;
        }
        return switch (in.currentToken()) {
            case VALUE_STRING -> in.getText();
            case VALUE_TRUE, VALUE_FALSE -> in.getBooleanValue();
            case VALUE_NUMBER_INT, VALUE_NUMBER_FLOAT -> in.getDecimalValue();
            default -> null;
        };
    }
}
