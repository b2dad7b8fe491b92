package deftlens.server.platform;

import java.util.Arrays;
import java.util.stream.Stream;
import org.springframework.boot.autoconfigure.web.WebProperties;
import org.springframework.context.annotation.Configuration;
import org.springframework.http.CacheControl;
import org.springframework.web.servlet.config.annotation.ResourceHandlerRegistry;
import org.springframework.web.servlet.config.annotation.ViewControllerRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** Serves the interface: its hashed files for ever, its page for every address it knows. */
@Configuration
public class WebPages implements WebMvcConfigurer {

    private static final String[] PAGES = {
        "/",
        "/sign-in",
        "/registers/**",
        "/views/**",
        "/views",
        "/account",
        "/people",
        "/people/**",
        "/organisation",
        "/catalogue",
        "/catalogue/**"
    };

    /** The paths of all that is the interface itself, and holds nothing of anybody's. */
    public static final String[] OPEN = Stream.concat(
                    Arrays.stream(PAGES), Stream.of("/index.html", "/assets/**", "/mark.svg", "/theme.js"))
            .toArray(String[]::new);

    private final WebProperties web;

    WebPages(WebProperties web) {
        this.web = web;
    }

    @Override
    public void addViewControllers(ViewControllerRegistry registry) {
        for (String page : PAGES) {
            registry.addViewController(page).setViewName("forward:/index.html");
        }
    }

    @Override
    public void addResourceHandlers(ResourceHandlerRegistry registry) {
        registry.addResourceHandler("/assets/**")
                .addResourceLocations(Arrays.stream(web.getResources().getStaticLocations())
                        .map(location -> location + "assets/")
                        .toArray(String[]::new))
                .setCacheControl(
                        CacheControl.maxAge(java.time.Duration.ofDays(365)).immutable());
    }
}
