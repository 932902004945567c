package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static com.microsoft.playwright.assertions.PlaywrightAssertions.setDefaultAssertionTimeout;

import com.microsoft.playwright.Browser;
import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import com.microsoft.playwright.options.AriaRole;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.assertj.core.api.Assertions;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;

/** A service of its own with the console in headless Chromium; no page may throw. */
abstract class InBrowser {

    static TestService service;
    static Client client;
    static Playwright playwright;
    static Browser browser;

    final List<String> errors = new ArrayList<>();
    BrowserContext context;
    Page page;

    @BeforeAll
    static void start() {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        playwright = Playwright.create();
        browser = playwright
                .chromium()
                .launch(new BrowserType.LaunchOptions()
                        .setExecutablePath(Path.of("/usr/bin/chromium"))
                        .setArgs(List.of(
                                "--no-sandbox",
                                "--disable-gpu",
                                "--no-first-run",
                                "--disable-background-networking",
                                "--disable-component-update",
                                "--disable-sync")));
    }

    @AfterAll
    static void end() {
        browser.close();
        playwright.close();
        service.close();
    }

    @BeforeEach
    void openPage() {
        context = browser.newContext(new Browser.NewContextOptions().setViewportSize(1280, 800));
        page = context.newPage();
        page.setDefaultTimeout(90_000);
        setDefaultAssertionTimeout(90_000);
        page.onPageError(errors::add);
        page.navigate(service.address() + "/");
    }

    @AfterEach
    void closePage() {
        context.close();
        Assertions.assertThat(errors).isEmpty();
    }

    void signIn() {
        page.getByLabel("Password").fill(service.password());
        page.keyboard().press("Enter");
        assertThat(link("Overview")).isVisible();
    }

    Locator link(String name) {
        return page.getByRole(AriaRole.NAVIGATION)
                .getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(name));
    }

    Locator button(String name) {
        return page.getByRole(
                AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    Locator row(String text) {
        return page.getByRole(AriaRole.ROW).filter(new Locator.FilterOptions().setHasText(text));
    }
}
