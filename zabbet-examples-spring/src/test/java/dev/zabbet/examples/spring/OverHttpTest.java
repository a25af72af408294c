package dev.zabbet.examples.spring;

import static dev.zabbet.expect.Expected.row;
import static org.springframework.security.test.web.servlet.request.SecurityMockMvcRequestPostProcessors.user;
import static org.springframework.test.web.servlet.request.MockMvcRequestBuilders.delete;
import static org.springframework.test.web.servlet.request.MockMvcRequestBuilders.post;
import static org.springframework.test.web.servlet.result.MockMvcResultMatchers.status;

import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.Staged;
import org.junit.jupiter.api.Test;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.boot.test.autoconfigure.web.servlet.AutoConfigureMockMvc;
import org.springframework.boot.test.context.SpringBootTest;
import org.springframework.http.MediaType;
import org.springframework.test.web.servlet.MockMvc;

/** The whole application, from the request to the rows. */
@Staged
@SpringBootTest
@AutoConfigureMockMvc
class OverHttpTest {
    @Autowired
    MockMvc http;

    @Autowired
    ObjectMapper json;

    @Test
    void aGuestBooks(Stage stage) throws Exception {
        var booking = stage.payload(Factory.forType(Stay.class).with(Stay::getNights, 3));
        stage.act(() -> http.perform(post("/stays")
                                .contentType(MediaType.APPLICATION_JSON)
                                .content(json.writeValueAsString(booking)))
                        .andExpect(status().isCreated()))
                .expect()
                .added(
                        "stay",
                        row("guest", booking.get("guest")).with("nights", 3).with("price", "120.00"))
                .nothingElse();
    }

    @Test
    void aCancelledStayIsPaidBack(Stage stage) throws Exception {
        Stay stay = stage.add(Factory.forType(Stay.class).with(Stay::getStatus, Stay.Status.BOOKED));
        stage.act(() -> http.perform(delete("/stays/" + stay.getId())
                                .with(user("ida").roles("WARDEN")))
                        .andExpect(status().isOk()))
                .expect()
                .changed("stay", stay.getId(), row("status", "CANCELLED").with("version", stay.getVersion() + 1))
                .added("refund", row("amount", stay.getPrice()))
                .nothingElse();
    }

    @Test
    void onlyWardensCancel(Stage stage) {
        Stay stay = stage.add(Factory.forType(Stay.class));
        stage.act(() -> http.perform(delete("/stays/" + stay.getId())
                                .with(user("jon").roles("GUEST")))
                        .andExpect(status().isForbidden()))
                .expect()
                .unchanged();
    }
}
