package dev.zabbet.serve.internal;

import dev.zabbet.files.internal.JsonTree;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.Objects;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;

/** The OpenAPI document that describes the server. It is written in YAML, and served as that and as JSON. */
public final class ServedDocument {
    private ServedDocument() {}

    public static String yaml() {
        try (InputStream in =
                Objects.requireNonNull(ServedDocument.class.getResourceAsStream("openapi.yaml"), "openapi.yaml")) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    public static String json() {
        return JsonTree.write(new Load(LoadSettings.builder().build()).loadFromString(yaml())) + "\n";
    }
}
