package dev.zabbet.cli;

import dev.zabbet.internal.text.Secrets;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;

/** Passes text on line by line, without the secrets that an argument or a driver's message may repeat. */
final class WithoutSecrets extends OutputStream {
    private final OutputStream to;
    private final ByteArrayOutputStream line = new ByteArrayOutputStream();

    WithoutSecrets(OutputStream to) {
        this.to = to;
    }

    @Override
    public synchronized void write(int b) throws IOException {
        line.write(b);
        if (b == '\n') {
            pass();
        }
    }

    private void pass() throws IOException {
        String text = line.toString(StandardCharsets.UTF_8);
        line.reset();
        to.write(Secrets.hidden(text).getBytes(StandardCharsets.UTF_8));
    }

    /** Partial lines, such as progress, are passed on unchanged if somebody wants to see them. */
    @Override
    public synchronized void flush() throws IOException {
        if (line.size() > 0 && line.toByteArray()[line.size() - 1] != '\n') {
            pass();
        }
        to.flush();
    }
}
