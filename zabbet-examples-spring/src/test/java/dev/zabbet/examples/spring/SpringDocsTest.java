package dev.zabbet.examples.spring;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.IOException;
import java.io.StringWriter;
import java.net.URI;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.tools.JavaFileObject;
import javax.tools.SimpleJavaFileObject;
import javax.tools.ToolProvider;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.platform.engine.TestExecutionResult;
import org.junit.platform.engine.discovery.DiscoverySelectors;
import org.junit.platform.testkit.engine.EngineTestKit;

/** Compiles and runs every example of the page about Spring. */
class SpringDocsTest {
    private static final Path PAGE =
            Path.of(System.getProperty("zabbet.repository.root")).resolve("docs/spring.md");
    private static final Pattern EXAMPLE = Pattern.compile("```java\n(.*?)```", Pattern.DOTALL);
    private static final Pattern NAME = Pattern.compile("(?m)^class (\\w+)");
    private static final String IMPORTS = """
            package dev.zabbet.examples.spring;
            import static dev.zabbet.expect.Expected.row;
            import static org.junit.jupiter.api.Assertions.*;
            import static org.springframework.security.test.web.servlet.request.SecurityMockMvcRequestPostProcessors.user;
            import static org.springframework.test.web.servlet.request.MockMvcRequestBuilders.*;
            import static org.springframework.test.web.servlet.result.MockMvcResultMatchers.status;
            import dev.zabbet.*;
            import dev.zabbet.factory.Factory;
            import dev.zabbet.junit.Staged;
            import dev.zabbet.schema.Schema;
            import dev.zabbet.spring.Persisting;
            import jakarta.persistence.EntityManager;
            import java.util.List;
            import com.fasterxml.jackson.databind.ObjectMapper;
            import org.junit.jupiter.api.Test;
            import org.springframework.beans.factory.annotation.Autowired;
            import org.springframework.boot.test.autoconfigure.orm.jpa.DataJpaTest;
            import org.springframework.boot.test.autoconfigure.web.servlet.AutoConfigureMockMvc;
            import org.springframework.boot.test.context.SpringBootTest;
            import org.springframework.http.MediaType;
            import org.springframework.security.test.context.support.WithMockUser;
            import org.springframework.test.web.reactive.server.WebTestClient;
            import org.springframework.test.web.servlet.MockMvc;
            import org.springframework.transaction.annotation.Transactional;
            """;

    @Test
    void everyExampleHolds(@TempDir Path classes) throws IOException {
        List<JavaFileObject> sources = new ArrayList<>();
        List<String> names = new ArrayList<>();
        Matcher found = EXAMPLE.matcher(Files.readString(PAGE));
        while (found.find()) {
            Matcher name = NAME.matcher(found.group(1));
            assertTrue(name.find(), found.group(1));
            names.add(name.group(1));
            String code = IMPORTS + found.group(1);
            sources.add(
                    new SimpleJavaFileObject(
                            URI.create("page:/" + name.group(1) + ".java"), JavaFileObject.Kind.SOURCE) {
                        @Override
                        public CharSequence getCharContent(boolean ignoreEncodingErrors) {
                            return code;
                        }
                    });
        }
        assertEquals(9, names.size());
        StringWriter messages = new StringWriter();
        List<String> options = List.of(
                "-d", classes.toString(), "-cp", System.getProperty("java.class.path"), "-proc:none", "-parameters");
        ToolProvider.getSystemJavaCompiler()
                .getTask(messages, null, null, options, null, sources)
                .call();
        assertEquals("", messages.toString());
        ClassLoader before = Thread.currentThread().getContextClassLoader();
        try (URLClassLoader compiled = new URLClassLoader(
                new URL[] {classes.toUri().toURL()}, getClass().getClassLoader())) {
            Thread.currentThread().setContextClassLoader(compiled);
            var events = EngineTestKit.engine("junit-jupiter")
                    .selectors(names.stream()
                            .map(name -> DiscoverySelectors.selectClass(compiled, "dev.zabbet.examples.spring." + name))
                            .toArray(org.junit.platform.engine.discovery.ClassSelector[]::new))
                    .execute()
                    .allEvents();
            events.failed().stream().forEach(failed -> {
                throw new AssertionError(
                        failed.getTestDescriptor().getDisplayName(),
                        failed.getRequiredPayload(TestExecutionResult.class)
                                .getThrowable()
                                .orElseThrow());
            });
            assertEquals(
                    11,
                    events.succeeded().stream()
                            .filter(event -> event.getTestDescriptor().isTest())
                            .count());
        } finally {
            Thread.currentThread().setContextClassLoader(before);
        }
    }
}
