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
    private static final Pattern ONLY_IMPORTS = Pattern.compile("```java\n((?:import .*;\n|\n)+)```");

    @Test
    void everyExampleHolds(@TempDir Path classes) throws IOException {
        List<JavaFileObject> sources = new ArrayList<>();
        List<String> names = new ArrayList<>();
        String page = Files.readString(PAGE);
        Matcher shared = ONLY_IMPORTS.matcher(page);
        assertTrue(shared.find(), "the page shows what its examples import");
        Matcher found = EXAMPLE.matcher(page.substring(shared.end()));
        while (found.find()) {
            Matcher name = NAME.matcher(found.group(1));
            assertTrue(name.find(), found.group(1));
            names.add(name.group(1));
            String code = "package dev.zabbet.examples.spring;\n" + shared.group(1) + found.group(1);
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
