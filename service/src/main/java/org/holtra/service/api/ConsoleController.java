package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Hidden;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;

/** The console's own addresses all lead to its one page, which finds its way from there. */
@Hidden
@Controller
class ConsoleController {

    @GetMapping({
        "/",
        "/sign-in",
        "/overview",
        "/messages",
        "/messages/{id}",
        "/lanes",
        "/lanes/{name}",
        "/connections",
        "/connections/{name}",
        "/inlets",
        "/inlets/{name}",
        "/outlets",
        "/outlets/{name}",
        "/setup",
        "/lookups",
        "/access",
        "/storage",
        "/balance",
        "/alarms",
        "/alarms/{number}",
        "/lookouts",
        "/lookouts/{name}",
        "/incidents",
        "/incidents/{number}",
        "/jobs",
        "/devices",
        "/devices/{key}",
        "/models",
        "/models/{name}",
        "/dead"
    })
    String page() {
        return "forward:/index.html";
    }
}
