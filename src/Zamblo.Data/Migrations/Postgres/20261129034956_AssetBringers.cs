using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class AssetBringers : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "QuotaBytes",
                table: "People",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "By",
                table: "Assets",
                type: "text",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "IX_Assets_By",
                table: "Assets",
                column: "By");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Assets_By",
                table: "Assets");

            migrationBuilder.DropColumn(
                name: "QuotaBytes",
                table: "People");

            migrationBuilder.DropColumn(
                name: "By",
                table: "Assets");
        }
    }
}
