package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.options.BoundingBox;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Incidents in the console. */
class IncidentPagesTest extends InBrowser {

    private Receiver receiver;

    @BeforeEach
    void setUp() {
        receiver = Receiver.answering(422);
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: c}, device: data.id, sequence: data.n}
                outlets:
                  o: {kind: http, to: {url: "%1$s/"}}
                lanes:
                  l: {inlets: [i], outlet: o}
                """.formatted(receiver.address())));
        signIn();
    }

    @AfterEach
    void tearDown() {
        receiver.close();
    }

    @Test
    void aSpanIsDrawnOverAHistoryLookedIntoAndMended() {
        for (int number : new int[] {1, 2, 5}) {
            client.send("i", "{\"id\":\"d\",\"n\":%d}".formatted(number));
        }
        Client.await(
                () -> client.get("/api/v1/dead"), dead -> dead.path("letters").size() == 3);
        Client.await(
                () -> service.database().texts("select count::text from tally where what = 'DEAD'"),
                counts -> !counts.isEmpty());
        page.navigate(service.address() + "/outlets/o");
        page.getByText("Mark an incident").click();

        BoundingBox plot = page.locator("figure .recharts-wrapper").boundingBox();
        page.mouse().move(plot.x + plot.width - 200, plot.y + 60);
        page.mouse().down();
        page.mouse().move(plot.x + plot.width - 90, plot.y + 60);
        page.mouse().move(plot.x + plot.width - 12, plot.y + 60);
        // A busy page draws moves late, and the span ends where it is drawn.
        Client.await(
                () -> page.locator(".recharts-reference-area-rect").boundingBox(),
                span -> span != null && span.x + span.width > plot.x + plot.width - 40);
        page.mouse().up();
        page.getByLabel("What happened").fill("The destination refused");
        button("Mark and look").click();

        assertThat(row("deliveries are dead")).containsText("3");
        assertThat(row("3 to 4")).containsText("2");
        assertThat(page.getByText("They go under the keys they had")).isVisible();
        receiver.answer(number -> new Receiver.Reply(200, "{}"));
        button("Do what is chosen").click();
        button("Mend it").click();

        assertThat(page.getByText("Findings and progress")).isVisible();
        assertThat(row("deliveries are dead")).containsText("330");
        assertThat(row("deliveries arrived")).containsText("03");
    }

    @Test
    void whatIsWrongWithASpanIsSaidBesideItsField() {
        page.navigate(service.address() + "/incidents");
        page.getByLabel("From").fill("2026-02-02T10:00");
        page.getByLabel("Until").fill("2026-02-02T09:00");
        button("Mark and look").click();

        assertThat(page.getByText("The span ends before it begins.")).isVisible();
    }
}
